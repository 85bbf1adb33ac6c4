/** The shapes of labels: told apart without any colour, each with a dark rim that stands on any picture. */

export const SHAPES = {
  triangle: "M8 1.5 15 14H1z",
  diamond: "M8 .8 15.200 8 8 15.200.8 8z",
  hexagon: "M4.300 1.600h7.400L15.400 8l-3.700 6.400H4.300L.6 8z",
  disc: "M8 1a7 7 0 1 1 0 14A7 7 0 0 1 8 1z",
  square: "M1.700 1.700h12.600v12.600H1.700z",
  cross: "M5.600 1h4.800v4.600H15v4.800h-4.600V15H5.600v-4.600H1V5.600h4.600z",
  ring: "M8 .8a7.200 7.200 0 1 1 0 14.400A7.200 7.200 0 0 1 8 .8zm0 4.400a2.800 2.800 0 1 0 0 5.600 2.800 2.800 0 0 0 0-5.600z",
  chevron: "M1 1.500h5L15 8l-9 6.500H1L7.400 8z",
} as const;

export type ShapeName = keyof typeof SHAPES;

export function Shape({ shape, colour, size = 13 }: { shape: ShapeName; colour: string; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden="true" className="shrink-0">
      <path d={SHAPES[shape]} fill={colour} stroke="#000" strokeWidth="1" strokeLinejoin="round" />
      <path
        d={SHAPES[shape]}
        fill="none"
        stroke="#fff"
        strokeOpacity="0.75"
        strokeWidth="0.6"
        strokeLinejoin="round"
      />
    </svg>
  );
}
