/** Offers a text, or what a request brought, to be saved as a file. */
export function saveFile(name: string, text: string | Blob, type: string) {
  save(name, new Blob([text], { type }));
}

function save(name: string, content: Blob) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** How many pixels of a picture stand for one unit of a drawing. */
const SCALE = 2;

/** Offers a drawing of rectangles and texts as a PNG. It is drawn anew, in the fonts of the page: a drawing that is loaded
 * as a picture may not use them. */
export async function savePicture(drawing: SVGSVGElement, name: string) {
  const canvas = document.createElement("canvas");
  const { width, height } = drawing.viewBox.baseVal;
  canvas.width = width * SCALE;
  canvas.height = height * SCALE;
  const context = canvas.getContext("2d");
  if (!context) return;
  context.scale(SCALE, SCALE);
  for (const element of drawing.querySelectorAll("rect, text")) {
    const { fill, stroke, strokeWidth, font, textAnchor } = getComputedStyle(element);
    context.fillStyle = fill;
    if (element instanceof SVGRectElement) {
      const { x, y, width: wide, height: high, rx } = element;
      const [left, top, w, h, r] = [x, y, wide, high, rx].map((length) => length.baseVal.value);
      context.beginPath();
      context.roundRect(left ?? 0, top ?? 0, w ?? 0, h ?? 0, r ?? 0);
      context.fill();
      context.strokeStyle = stroke;
      context.lineWidth = Number.parseFloat(strokeWidth);
      if (stroke !== "none") context.stroke();
    } else if (element instanceof SVGTextElement) {
      context.font = font;
      context.textAlign = textAnchor === "end" ? "right" : "left";
      const [x, y] = [element.x, element.y].map((list) => list.baseVal.getItem(0).value);
      context.fillText(element.textContent ?? "", x ?? 0, y ?? 0);
    }
  }
  const picture = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, "image/png"));
  if (picture) save(name, picture);
}
