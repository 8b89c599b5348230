/** The land: heights in metres on a square raster, from the north-west corner; x to the east, y to the south. */
export interface Land {
  heights: Float32Array;
  side: number;
  metres: number;
}

/** Metres above zero at a place, between texels. */
export function heightAt({ heights, side, metres }: Land, x: number, y: number): number {
  const limit = (value: number) => Math.min(side - 1, Math.max(0, value));
  const [u, v] = [limit((x / metres) * side - 0.5), limit((y / metres) * side - 0.5)];
  const [left, top] = [Math.floor(u), Math.floor(v)];
  const [right, bottom] = [limit(left + 1), limit(top + 1)];
  const [fx, fy] = [u - left, v - top];
  const upper = heights[top * side + left]! * (1 - fx) + heights[top * side + right]! * fx;
  const lower = heights[bottom * side + left]! * (1 - fx) + heights[bottom * side + right]! * fx;
  return upper * (1 - fy) + lower * fy;
}

/** The lowest and the highest place, in metres. */
export function rangeOf({ heights }: Land): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const one of heights) {
    if (one < low) low = one;
    if (one > high) high = one;
  }
  return [low, high];
}

type Place = [x: number, up: number, y: number];

/** Where a ray first meets the land; null where it passes by. */
export function meets(land: Land, origin: Place, direction: Place): { x: number; y: number } | null {
  const at = (far: number): Place => origin.map((one, axis) => one + direction[axis]! * far) as Place;
  const isBelow = ([x, up, y]: Place) => up <= heightAt(land, x, y);
  const isInside = ([x, , y]: Place) => x >= 0 && y >= 0 && x <= land.metres && y <= land.metres;
  const step = land.metres / Math.min(land.side, 512);
  let last = 0;
  for (let far = 0; far < land.metres * 8; far += Math.max(step, far * 0.004)) {
    const place = at(far);
    if (isInside(place) && isBelow(place)) {
      let [low, high] = [last, far];
      for (let turn = 0; turn < 12; turn++) {
        const middle = (low + high) / 2;
        if (isBelow(at(middle))) high = middle;
        else low = middle;
      }
      const [x, , y] = at(high);
      return { x, y };
    }
    last = far;
  }
  return null;
}

/** Heights along a line, evenly from one end to the other. */
export const section = (
  land: Land,
  from: { x: number; y: number },
  to: { x: number; y: number },
  count = 200,
): number[] =>
  Array.from({ length: count }, (_, at) => {
    const share = at / (count - 1);
    return heightAt(land, from.x + (to.x - from.x) * share, from.y + (to.y - from.y) * share);
  });
