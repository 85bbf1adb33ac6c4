import { expect, it, vi } from "vitest";

// Eight hours west of Greenwich: said before anything asks for the zone.
vi.stubEnv("TZ", "America/Los_Angeles");
const { clock, day, dayOf, moment, shortMoment } = await import("./format");

it("shows a moment of the evening on the day that it is there", () => {
  expect(dayOf("2026-10-18T03:30:00Z")).toBe("17 Oct 2026");
  expect(moment("2026-10-18T03:30:00Z")).toBe("17 Oct 2026, 20:30");
  expect(shortMoment("2026-10-18T03:30:00+00:00")).toBe("17 Oct 20:30");
});

it("shows the time of a picture as its camera did", () => {
  const captured = "2026-10-18T03:30:00+01:00";
  expect(`${day(captured)} ${clock(captured)}`).toBe("18 Oct 2026 03:30");
});
