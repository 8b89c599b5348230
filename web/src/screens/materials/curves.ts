/** Points of a curve, as a chain holds them: x and y by turns, as texts. */
export interface Point {
  x: number;
  y: number;
}
export const MAX_POINTS = 8;
/** How near two points may stand along x. */
const APART = 0.01;

/** Whether a curve's points are plain numbers, so that it can be drawn by hand. */
export const isDrawn = (texts: string[]): boolean =>
  texts.length >= 4 &&
  texts.length % 2 === 0 &&
  texts.every((one) => one.trim() !== "" && isFinite(Number(one)));

export const pointsOf = (texts: string[]): Point[] =>
  Array.from({ length: texts.length / 2 }, (_, at) => ({
    x: Number(texts[2 * at]),
    y: Number(texts[2 * at + 1]),
  }));

const short = (value: number) => String(Number(value.toFixed(3)));
export const textsOf = (points: Point[]): string[] => points.flatMap((one) => [short(one.x), short(one.y)]);

/** The points with one moved: never past its neighbours, never out of the picture. */
export function movedTo(points: Point[], at: number, to: Point): Point[] {
  const low = at > 0 ? points[at - 1]!.x + APART : 0;
  const high = at < points.length - 1 ? points[at + 1]!.x - APART : 1;
  const x = Math.max(low, Math.min(high, to.x));
  const y = Math.max(0, Math.min(1, to.y));
  return points.map((one, index) => (index === at ? { x, y } : one));
}

/** The points with another between two of them; the same where there is no room or there are enough. */
export function withPoint(points: Point[], one: Point): Point[] {
  const tight = points.some((other) => Math.abs(other.x - one.x) < APART);
  if (tight || points.length >= MAX_POINTS) return points;
  return [...points, one].sort((a, b) => a.x - b.x);
}

/** The points without one of them; two are the fewest. */
export const withoutPoint = (points: Point[], at: number): Point[] =>
  points.length > 2 ? points.filter((_, index) => index !== at) : points;
