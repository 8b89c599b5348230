import * as three from "three";

/** What a slot without a cast looks like: stripes that light does not touch, so that nobody takes them for a material. */
export function stripes(): three.Material {
  const side = 16;
  const data = new Uint8Array(side * side * 4);
  for (let at = 0; at < side * side; at++) {
    const dark = ((at % side) + Math.floor(at / side)) % side < side / 2;
    data.set(dark ? [20, 20, 20, 255] : [255, 196, 0, 255], at * 4);
  }
  const map = new three.DataTexture(data, side, side);
  map.wrapS = map.wrapT = three.RepeatWrapping;
  map.repeat.set(8, 8);
  map.colorSpace = three.SRGBColorSpace;
  map.needsUpdate = true;
  return new three.MeshBasicMaterial({ map, side: three.DoubleSide, toneMapped: false });
}
