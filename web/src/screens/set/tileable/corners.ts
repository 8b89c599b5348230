/** Four corners of a part of a picture: x and y of each, shares of the sides, clockwise from the upper left. */

/** Corners whose x, or y, goes along with a corner's as long as the part stands straight. */
const BESIDE: Record<number, { x: number; y: number }> = {
  0: { x: 3, y: 1 },
  1: { x: 2, y: 0 },
  2: { x: 1, y: 3 },
  3: { x: 0, y: 2 },
};
const within = (share: number) => Math.round(Math.min(1, Math.max(0, share)) * 10000) / 10000;

/** One corner moved to a place. straight: the others follow, so that the part stays a rectangle. */
export function movedTo(
  corners: readonly number[],
  corner: number,
  x: number,
  y: number,
  straight: boolean,
): number[] {
  const made = [...corners];
  made[2 * corner] = within(x);
  made[2 * corner + 1] = within(y);
  if (straight) {
    made[2 * BESIDE[corner]!.x] = within(x);
    made[2 * BESIDE[corner]!.y + 1] = within(y);
  }
  return made;
}

/** The rectangle around corners. */
export function straightened(corners: readonly number[]): number[] {
  const [xs, ys] = [0, 1].map((from) => corners.filter((_, at) => at % 2 === from)) as [number[], number[]];
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  return [left, top, right, top, right, bottom, left, bottom];
}
