/** Where a picture stands in a window: zoom in window pixels a texel, and the corner's place. Pure arithmetic. */
export interface Standing {
  zoom: number;
  left: number;
  top: number;
}

const CLOSEST = 64;
const MARGIN = 12;

/** The whole picture, as large as the window allows, in its middle. */
export function framed(width: number, height: number, windowWidth: number, windowHeight: number): Standing {
  const zoom = Math.min((windowWidth - 2 * MARGIN) / width, (windowHeight - 2 * MARGIN) / height);
  return at(zoom, width, height, windowWidth, windowHeight);
}

function at(
  zoom: number,
  width: number,
  height: number,
  windowWidth: number,
  windowHeight: number,
): Standing {
  return {
    zoom,
    left: Math.round((windowWidth - width * zoom) / 2),
    top: Math.round((windowHeight - height * zoom) / 2),
  };
}

/** Zoomed by ``factor`` so that the texel under (x, y) of the window stays there. */
export function zoomed(standing: Standing, factor: number, x: number, y: number, smallest: number): Standing {
  const zoom = Math.max(Math.min(smallest, 1) / 4, Math.min(CLOSEST, standing.zoom * factor));
  const share = zoom / standing.zoom;
  return { zoom, left: x - (x - standing.left) * share, top: y - (y - standing.top) * share };
}

/** The place under (x, y) of the window, 0 to 1 from the picture's upper left corner, or null beside the picture. */
export function placeAt(standing: Standing, x: number, y: number, width: number, height: number) {
  const place = {
    x: (x - standing.left) / standing.zoom / width,
    y: (y - standing.top) / standing.zoom / height,
  };
  return place.x >= 0 && place.x <= 1 && place.y >= 0 && place.y <= 1 ? place : null;
}

/** The texel under a place of the window, or null beside the picture. */
export function texelAt(standing: Standing, x: number, y: number, width: number, height: number) {
  const column = Math.floor((x - standing.left) / standing.zoom);
  const row = Math.floor((y - standing.top) / standing.zoom);
  if (column < 0 || row < 0 || column >= width || row >= height) return null;
  return { x: column, y: row };
}
