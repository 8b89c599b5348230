/** A patch of ground in the page's renderer: the land as a mesh, its layers by weights, a camera, the sun, the brush. */
import * as three from "three";

import { TILE_SIDE } from "@/api/ground";
import { detail } from "@/preview/detail";
import { SharedRenderer } from "@/preview/renderer";

import { heightAt, type Land, meets, rangeOf } from "./land";
import { fragmentShader, vertexShader } from "./groundShader";

export type Look = "surface" | "weights" | "land";
export type Camera = "person" | "above" | "far";
export type Misread = "none" | "weights" | "green" | "height";
const LOOKS: Record<Look, number> = { surface: 0, weights: 1, land: 2 };
const MISREADS: Record<Misread, number> = { none: 0, weights: 1, green: 2, height: 3 };
const REPEATS: Record<string, number> = { plain: 0, two_scales: 1, hexagons: 2 };
/** Corners along a side of the mesh: finer ones would not be seen. */
const MOST_CORNERS = 256;
const EYE = 1.7;
const FIELD = 60;

export interface LayerLook {
  tile: number;
  turn: number;
  repeat: string;
  edge: number;
  shown: boolean;
  tint: [number, number, number];
}
export interface GroundLook {
  look: Look;
  misread: Misread;
  /** Whether what was painted shows, or only what the rules say. */
  painting: boolean;
  /** Degrees clockwise from the north. */
  sun: number;
  layers: readonly LayerLook[];
  /** The brush on the land, in metres, or none. */
  brush: { x: number; y: number; radius: number } | null;
}
export class GroundScene {
  private readonly shared: SharedRenderer;
  private readonly scene = new three.Scene();
  private readonly camera = new three.PerspectiveCamera(FIELD, 1, 0.05, 10_000);
  private readonly mesh = new three.Mesh<three.BufferGeometry, three.ShaderMaterial>();
  private land: Land = { heights: new Float32Array(4), side: 2, metres: 1 };
  private range: [number, number] = [0, 0];
  private eightBits = false;
  private layers = 0;
  private means: three.Vector4[] = [];
  private readonly eye = { x: 0.5, y: 0.5, around: 0, above: 0.4, away: 1 };
  private kind: Camera = "far";

  constructor(canvas: HTMLCanvasElement) {
    this.shared = new SharedRenderer(canvas);
    this.mesh.material = new three.ShaderMaterial();
    this.scene.add(this.mesh);
    this.scene.background = new three.Color(0x8a8a8a);
    this.look("far");
  }

  /** The land as a mesh. */
  setLand(land: Land): void {
    this.land = land;
    this.range = rangeOf(land);
    this.shape();
  }

  private shape(): void {
    const { side, metres } = this.land;
    const corners = Math.min(side, MOST_CORNERS);
    const geometry = new three.PlaneGeometry(metres, metres, corners - 1, corners - 1);
    geometry.rotateX(-Math.PI / 2).translate(metres / 2, 0, metres / 2);
    const places = geometry.getAttribute("position") as three.BufferAttribute;
    const uv = geometry.getAttribute("uv") as three.BufferAttribute;
    for (let at = 0; at < places.count; at++) {
      places.setY(at, this.drawnHeight(places.getX(at), places.getZ(at)));
      uv.setXY(at, places.getX(at) / metres, places.getZ(at) / metres);
    }
    geometry.computeVertexNormals();
    this.mesh.geometry.dispose();
    this.mesh.geometry = geometry;
  }

  private drawnHeight(x: number, y: number): number {
    const height = heightAt(this.land, x, y);
    if (!this.eightBits) return height;
    const [low, high] = this.range;
    return low + (Math.round(((height - low) / Math.max(high - low, 1e-6)) * 255) / 255) * (high - low);
  }

  /** Tiles of all layers: colour with relief, and normal with roughness and occlusion. */
  setTiles(tiles: readonly [Uint8Array, Uint8Array][]): void {
    const joined = (which: 0 | 1): Uint8Array<ArrayBuffer> => {
      const all = new Uint8Array(tiles.length * 4 * TILE_SIDE * TILE_SIDE);
      tiles.forEach((one, at) => all.set(one[which], at * 4 * TILE_SIDE * TILE_SIDE));
      return all;
    };
    const array = (pixels: Uint8Array<ArrayBuffer>) => {
      const made = new three.DataArrayTexture(pixels, TILE_SIDE, TILE_SIDE, tiles.length);
      made.wrapS = made.wrapT = three.RepeatWrapping;
      made.minFilter = three.LinearMipmapLinearFilter;
      made.magFilter = three.LinearFilter;
      made.generateMipmaps = true;
      made.anisotropy = 4;
      made.needsUpdate = true;
      return made;
    };
    this.means = tiles.map(([colour]) => meanOf(colour));
    this.program(tiles.length);
    const colours = array(joined(0));
    colours.colorSpace = three.SRGBColorSpace;
    this.give("colours", colours);
    this.give("others", array(joined(1)));
  }

  /** Rules and paint of all layers, one byte each. */
  setRules(rules: Uint8Array<ArrayBuffer>, paint: Uint8Array<ArrayBuffer>, layers: number): void {
    this.program(layers);
    const array = (pixels: Uint8Array<ArrayBuffer>) => {
      const made = new three.DataArrayTexture(pixels, this.land.side, this.land.side, layers);
      made.format = three.RedFormat;
      made.minFilter = made.magFilter = three.LinearFilter;
      made.unpackAlignment = 1;
      made.needsUpdate = true;
      return made;
    };
    this.give("rules", array(rules));
    this.give("paint", array(paint));
  }

  /** One layer's paint has changed in place. */
  repaint(layer: number): void {
    const paint = this.mesh.material.uniforms.paint!.value as three.DataArrayTexture;
    paint.addLayerUpdate(layer);
    paint.needsUpdate = true;
  }

  private give(name: string, made: three.Texture): void {
    const uniform = this.mesh.material.uniforms[name]!;
    (uniform.value as three.Texture | null)?.dispose();
    uniform.value = made;
  }

  /** The shader is written for a number of layers. */
  private program(layers: number): void {
    if (this.layers === layers) return;
    const before = this.mesh.material.uniforms;
    this.mesh.material.dispose();
    this.layers = layers;
    const kept = (name: string) => ({ value: (before[name]?.value ?? null) as three.Texture | null });
    this.mesh.material = new three.ShaderMaterial({
      vertexShader,
      fragmentShader: fragmentShader(layers),
      side: three.DoubleSide,
      uniforms: {
        rules: kept("rules"), paint: kept("paint"), colours: kept("colours"), others: kept("others"),
        means: { value: [] }, laid: { value: [] }, shown: { value: [] }, tints: { value: [] },
        metres: { value: 1 }, sun: { value: new three.Vector3() }, look: { value: 0 }, misread: { value: 0 },
        painting: { value: 1 },
        brush: { value: new three.Vector3() },
      },
    }); // prettier-ignore
  }

  /** Whether all is there that is drawn, of every layer: tiles and rules come one after the other. */
  get ready(): boolean {
    const used = this.mesh.material.uniforms;
    const depth = (name: string) =>
      (used[name]?.value as three.DataArrayTexture | null | undefined)?.image.depth ?? 0;
    return this.layers > 0 && ["rules", "colours"].every((name) => depth(name) === this.layers);
  }

  look(kind: Camera): void {
    this.kind = kind;
    Object.assign(this.eye, { x: 0.5, y: 0.5 }, CAMERAS[kind]);
  }

  /** A person walks where the wheel goes; from above and from afar it brings the camera nearer. */
  zoomBy(factor: number): void {
    if (this.kind !== "person") this.eye.away = Math.max(0.05, Math.min(4, this.eye.away * factor));
    else this.walk(Math.log2(factor) * -4);
  }

  private walk(metres: number): void {
    const share = metres / this.land.metres;
    this.eye.x = Math.min(1, Math.max(0, this.eye.x - Math.sin(this.eye.around) * share));
    this.eye.y = Math.min(1, Math.max(0, this.eye.y - Math.cos(this.eye.around) * share));
  }

  orbitBy(x: number, y: number): void {
    this.eye.around -= x * 0.006;
    const lowest = this.kind === "person" ? -1.2 : 0.05;
    this.eye.above = Math.max(lowest, Math.min(1.56, this.eye.above + y * 0.006));
  }

  private place(width: number, height: number): void {
    const { metres } = this.land;
    const { x, y, around, above, away } = this.eye;
    const at = new three.Vector3(x * metres, 0, y * metres);
    at.y = heightAt(this.land, at.x, at.z);
    const out = new three.Vector3(
      Math.sin(around) * Math.cos(above), Math.sin(above), Math.cos(around) * Math.cos(above),
    ); // prettier-ignore
    if (this.kind === "person") {
      at.y += EYE;
      this.camera.position.copy(at);
      this.camera.lookAt(at.clone().sub(out));
    } else {
      this.camera.position.copy(at).addScaledVector(out, away * metres);
      this.camera.lookAt(at);
    }
    this.camera.aspect = width / height;
    this.camera.far = metres * 8;
    this.camera.near = Math.max(0.02, metres / 20_000);
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
  }

  /** Where a place of the canvas, from -1 to 1 along both axes, lies on the land, in metres; null beside it. */
  hit(x: number, y: number): { x: number; y: number } | null {
    this.place(this.shared.width, this.shared.height);
    const ray = new three.Raycaster();
    ray.setFromCamera(new three.Vector2(x, y), this.camera);
    return meets(this.land, ray.ray.origin.toArray(), ray.ray.direction.toArray());
  }

  resize(width: number, height: number): void {
    this.shared.resize(width, height, detail.value);
  }

  draw(look: GroundLook): void {
    if (!this.ready || look.layers.length !== this.layers) return;
    if ((look.misread === "height") !== this.eightBits) {
      this.eightBits = !this.eightBits;
      this.shape();
    }
    const used = this.mesh.material.uniforms;
    used.metres!.value = this.land.metres;
    used.means!.value = this.means;
    used.laid!.value = look.layers.map(
      (one) => new three.Vector4(one.tile, one.turn, REPEATS[one.repeat] ?? 0, one.edge),
    );
    used.shown!.value = look.layers.map((one) => one.shown);
    used.tints!.value = look.layers.map((one) => new three.Vector3(...one.tint));
    used.look!.value = LOOKS[look.look];
    used.misread!.value = MISREADS[look.misread];
    used.painting!.value = look.painting ? 1 : 0;
    const [around, up] = [(look.sun * Math.PI) / 180, 0.61];
    (used.sun!.value as three.Vector3).set(
      Math.sin(around) * Math.cos(up), Math.sin(up), -Math.cos(around) * Math.cos(up),
    ); // prettier-ignore
    const { brush } = look;
    (used.brush!.value as three.Vector3).set(brush?.x ?? 0, brush?.y ?? 0, brush?.radius ?? 0);
    this.shared.show((renderer, width, height) => {
      renderer.toneMapping = three.NoToneMapping;
      this.place(width, height);
      renderer.render(this.scene, this.camera);
    });
  }

  dispose(): void {
    for (const name of ["rules", "paint", "colours", "others"])
      (this.mesh.material.uniforms[name]?.value as three.Texture | null)?.dispose();
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
  }
}

const CAMERAS: Record<Camera, { around: number; above: number; away: number }> = {
  person: { around: 0.6, above: 0.08, away: 0 },
  above: { around: 0, above: 1.56, away: 0.88 },
  far: { around: 0.7, above: 0.72, away: 1.15 },
};

/** The mean colour, linear, and the mean relief. */
function meanOf(colour: Uint8Array): three.Vector4 {
  const sums = [0, 0, 0, 0];
  for (let at = 0; at < colour.length; at += 4 * 16)
    for (let part = 0; part < 4; part++) {
      const value = colour[at + part]! / 255;
      sums[part]! += part === 3 ? value : value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
    }
  const count = colour.length / 64;
  return new three.Vector4(...(sums.map((one) => one / count) as [number, number, number, number]));
}
