/** Sheets on a surface: shapes or an own mesh, one cast or two side by side, drawn only when something changed. */
import * as three from "three";

import { surround } from "@/app/theme";

import { detail } from "./detail";
import type { OwnMesh } from "./ownMesh";
import { at, SharedRenderer, environmentOf } from "./renderer";
import { SheetMaterial } from "./sheetMaterial";
import type { Shown } from "./sheetShader";
import { type Environment, geometryOf, type Shape } from "./stage";
import { stripes } from "./stripes";

export type { SlotSource, PreviewMaterial } from "./sheetMaterial";

export interface SheetLook {
  shape: Shape;
  environment: Environment;
  /** Of the light, degrees around the vertical axis. */
  turn: number;
  exposure: number;
  toneMapped: boolean;
  shown: Shown;
  wire: boolean;
  displace: boolean;
  vertex: Painted;
  /** A misreading to show beside the right reading, or "". */
  misread: string;
  /** Two pictures in halves, or one over the other, parted at a share of the width. */
  parted: "beside" | "wipe";
  wipe: number;
}
/** Vertex colours by simple rules of the place: plain channels, patches, from one side, from below. */
export const PAINTS = {
  none: () => [0, 0, 0, 1],
  red: () => [1, 0, 0, 1],
  green: () => [0, 1, 0, 1],
  blue: () => [0, 0, 1, 1],
  no_alpha: () => [0, 0, 0, 0],
  red_patches: (x: number, y: number, z: number) => [
    Math.max(
      0,
      Math.min(1, 0.5 + 1.2 * Math.sin(2.3 * x + 1) * Math.sin(2.9 * y) + 0.8 * Math.sin(3.1 * z + x)),
    ),
    0,
    0,
    1,
  ],
  red_left: (x: number) => [Math.max(0, Math.min(1, 0.5 - x)), 0, 0, 1],
  green_below: (_x: number, y: number) => [0, Math.max(0, Math.min(1, 0.5 - y)), 0, 1],
  own: () => [0, 0, 0, 1],
} satisfies Record<string, (x: number, y: number, z: number) => number[]>;
export type Painted = keyof typeof PAINTS;

type Part = three.Mesh<three.BufferGeometry, three.Material>;
/** Which of the materials a part of a mesh wears: that in hand, or one that was assigned to its slot. */
const MAIN = "";
const SECOND = "second";

export class SheetScene {
  private readonly shared: SharedRenderer;
  private readonly scene = new three.Scene();
  private readonly camera = new three.PerspectiveCamera(35, 1, 0.1, 50);
  private readonly light = new three.DirectionalLight(0xffffff, 2.2);
  private readonly materials = new Map<string, SheetMaterial>();
  private readonly nothing = stripes();
  private readonly holder = new three.Group();
  /** Keys of materials by slot of the own mesh; a slot that is not here has none. */
  private readonly assigned = new Map<string, string>();
  private parts: { slot: string; mesh: Part }[] = [];
  private own: OwnMesh | null = null;
  private shape: Shape | "own" | "" = "";
  private painted = "";
  private orbit = { around: 0.5, above: 0.25, away: 3.9 };

  constructor(canvas: HTMLCanvasElement) {
    this.shared = new SharedRenderer(canvas);
    this.scene.add(this.holder, this.light);
  }

  /** The material under a key: "" is the one in hand, "second" the one beside it, others are for slots. */
  material(key: string = MAIN): SheetMaterial {
    const found = this.materials.get(key) ?? new SheetMaterial();
    this.materials.set(key, found);
    return found;
  }

  /** Seconds, for sheets that move. */
  setTime(seconds: number): void {
    for (const one of this.materials.values()) one.setTime(seconds);
  }

  /** Take the one beside it away. */
  single(): void {
    this.materials.get(SECOND)?.dispose();
    this.materials.delete(SECOND);
  }

  get paired(): boolean {
    return this.materials.get(SECOND)?.ready ?? false;
  }

  /** Show an own mesh, or none; its first slot wears what is in hand. */
  take(own: OwnMesh | null): void {
    this.own = own;
    this.assigned.clear();
    if (own?.slots[0] !== undefined) this.assigned.set(own.slots[0], MAIN);
    this.shape = "";
  }

  /** Let a slot of the own mesh apply the material under a key; null takes it off. */
  assign(slot: string, key: string | null): void {
    if (key === null) this.assigned.delete(slot);
    else this.assigned.set(slot, key);
  }

  orbitBy(x: number, y: number): void {
    this.orbit.around -= x * 0.01;
    this.orbit.above = Math.max(-1.4, Math.min(1.4, this.orbit.above + y * 0.01));
  }

  zoomBy(factor: number): void {
    this.orbit.away = Math.max(1.5, Math.min(9, this.orbit.away * factor));
  }

  resize(width: number, height: number): void {
    this.shared.resize(width, height, detail.value);
  }

  private frame(aspect: number): void {
    this.camera.aspect = aspect;
    // In a narrow frame the width is what has to hold the shape.
    const half = Math.tan((35 * Math.PI) / 360) / Math.min(1, this.camera.aspect);
    this.camera.fov = (Math.atan(half) * 360) / Math.PI;
    this.camera.updateProjectionMatrix();
  }

  private build(look: SheetLook): void {
    const wanted = this.own ? "own" : look.shape;
    if (wanted === this.shape) return;
    for (const { mesh } of this.parts) {
      if (this.shape !== "own") mesh.geometry.dispose();
      this.holder.remove(mesh);
    }
    const made = this.own?.parts ?? [{ slot: "", geometry: geometryOf(look.shape) }];
    this.parts = made.map(({ slot, geometry }) => ({ slot, mesh: new three.Mesh(geometry, this.nothing) }));
    for (const { mesh } of this.parts) this.holder.add(mesh);
    this.shape = wanted;
    this.painted = "";
  }

  private paint(how: Painted): void {
    if (this.painted === how) return;
    this.painted = how;
    for (const { mesh } of this.parts) {
      const place = mesh.geometry.getAttribute("position");
      const given = how === "own" ? mesh.geometry.getAttribute("color") : undefined;
      const colours = new Float32Array(place.count * 4);
      for (let at = 0; at < place.count; at++) {
        const colour = given
          ? [given.getX(at), given.getY(at), given.getZ(at), given.itemSize > 3 ? given.getW(at) : 1]
          : PAINTS[how](place.getX(at), place.getY(at), place.getZ(at));
        colours.set(colour, at * 4);
      }
      mesh.geometry.setAttribute("ftVertex", new three.BufferAttribute(colours, 4));
      // A mesh without a second set of coordinates has the first one twice.
      const second = mesh.geometry.getAttribute("uv1") ?? mesh.geometry.getAttribute("uv");
      mesh.geometry.setAttribute("ftUv1", second);
    }
  }

  private lightUp(look: SheetLook): void {
    this.scene.environment = environmentOf(look.environment);
    this.light.intensity = { studio: 2.2, overcast: 0.4, low_sun: 3.4, night_lamps: 0.6 }[look.environment];
    const angle = (look.turn * Math.PI) / 180;
    const high = look.environment === "low_sun" ? 0.7 : 2.4;
    this.light.position.set(Math.sin(angle) * 3, high, Math.cos(angle) * 3);
    this.scene.environmentRotation.y = angle;
  }

  /** What a part wears in the first or the second picture. */
  private applyMaterial(second: boolean, misread: string, look: SheetLook): void {
    let transmits = false;
    for (const { slot, mesh } of this.parts) {
      const key = this.own ? this.assigned.get(slot) : MAIN;
      const material = key === undefined ? undefined : this.material(second && key === MAIN ? SECOND : key);
      material?.show(look.shown, misread, look.wire, look.displace);
      mesh.material = material?.ready ? material.material : this.nothing;
      transmits ||= material?.transmits ?? false;
    }
    // Light that goes through comes from the grey around the picture; otherwise the page shows it.
    const grey = surround.value / 255;
    this.scene.background = transmits
      ? new three.Color().setRGB(grey, grey, grey, three.SRGBColorSpace)
      : null;
  }

  draw(look: SheetLook): void {
    this.shared.show((used, width, height) => this.render(look, used, width, height));
  }

  private render(look: SheetLook, used: three.WebGLRenderer, wide: number, high: number): void {
    this.build(look);
    this.paint(look.vertex);
    this.lightUp(look);
    used.toneMapping = look.toneMapped ? three.NeutralToneMapping : three.LinearToneMapping;
    used.toneMappingExposure = 2 ** look.exposure;
    const { around, above, away } = this.orbit;
    this.camera.position.set(
      Math.sin(around) * Math.cos(above) * away,
      Math.sin(above) * away,
      Math.cos(around) * Math.cos(above) * away,
    );
    this.camera.lookAt(0, 0, 0);
    const pairs = this.paired || look.misread !== "";
    const wipe = pairs && look.parted === "wipe";
    const split = Math.round(wide * (wipe ? look.wipe : 0.5));
    this.frame((pairs && !wipe ? split : wide) / high);
    used.setScissorTest(pairs);
    for (const right of pairs ? [false, true] : [false]) {
      this.applyMaterial(right && this.paired, right ? look.misread : "", look);
      const [left, width] = pairs ? (right ? [split, wide - split] : [0, split]) : [0, wide];
      if (wipe) used.setViewport(0, 0, wide, high);
      else used.setViewport(left, 0, width, high);
      used.setScissor(left, 0, width, high);
      used.render(this.scene, this.camera);
    }
  }

  private drawn(look: SheetLook, width: number, height: number): HTMLCanvasElement {
    return at(width, height, (used, wide, high) => this.render(look, used, wide, high));
  }

  /** A PNG of the picture at another size. */
  still(look: SheetLook, width: number, height: number): string {
    return this.drawn(look, width, height).toDataURL("image/png");
  }

  /** The pixels of the picture at another size: RGBA, 8 bits. */
  pixels(look: SheetLook, width: number, height: number): Uint8ClampedArray {
    const copy = new OffscreenCanvas(width, height).getContext("2d")!;
    copy.drawImage(this.drawn(look, width, height), 0, 0);
    return copy.getImageData(0, 0, width, height).data;
  }

  dispose(): void {
    for (const one of this.materials.values()) one.dispose();
    for (const { mesh } of this.parts) mesh.geometry.dispose();
    this.nothing.dispose();
  }
}
