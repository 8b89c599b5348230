/** A model on the page: each slot in what it wears, striped where it wears nothing; density as colours; picking. */
import * as three from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

import { detail } from "@/preview/detail";
import { at, environmentOf, SharedRenderer } from "@/preview/renderer";
import { type PreviewMaterial, SheetMaterial } from "@/preview/sheetMaterial";
import { stripes } from "@/preview/stripes";

import { colourMaterial } from "./colourMaterial";
import { densityMaterial } from "./densityMaterial";
import { BrushRing, type DrawnPiece, pieceOf, type Placing, pointOf } from "./surfacePieces";
import type { PaintedPiece, SurfacePoint } from "./vertexBrush";

export type Mode = "worn" | "density" | "colours" | "plain";

interface Part {
  part: string;
  slot: number;
  mesh: three.Mesh<three.BufferGeometry, three.Material>;
}
/** What of a slot its density is made of: texels along its map as it repeats, and what the house wants. */
export interface SlotDensity {
  texels: number;
  wanted: number;
}
export interface ModelLook {
  mode: Mode;
  /** Names of parts that are not drawn. */
  hidden: readonly string[];
  /** The slot that is in hand, or -1. */
  slot: number;
  /** Of the light, degrees around the vertical axis. */
  turn: number;
  /** Of vertex colours: alpha alone. */
  alpha: boolean;
}

export class ModelScene {
  private readonly shared: SharedRenderer;
  private readonly scene = new three.Scene();
  private readonly camera = new three.PerspectiveCamera(35, 1, 0.01, 100);
  private readonly light = new three.DirectionalLight(0xffffff, 2.2);
  private readonly holder = new three.Group();
  private readonly worn = new Map<number, SheetMaterial>();
  private readonly density = new Map<number, three.ShaderMaterial>();
  private readonly colours = colourMaterial();
  private readonly ring = new BrushRing();
  private placing: Placing = { middle: new three.Vector3(), scale: 1 };
  private readonly striped = stripes();
  private readonly grey = new three.MeshStandardMaterial({
    color: 0x9a9a9a,
    roughness: 0.8,
    side: three.DoubleSide,
  });
  private readonly edge = new three.LineBasicMaterial({ color: 0x000000 });
  private marked: three.LineSegments[] = [];
  private markedSlot = -2;
  private parts: Part[] = [];
  private orbit = { around: 0.6, above: 0.35, away: 3.1 };

  constructor(canvas: HTMLCanvasElement) {
    this.shared = new SharedRenderer(canvas);
    this.scene.environment = environmentOf("studio");
    this.scene.add(this.holder, this.light, this.ring.line);
  }

  /** Show a mesh; what slots wear stays. Throws an Error when it is none. */
  async load(data: ArrayBuffer): Promise<void> {
    const { scene } = await new GLTFLoader().parseAsync(data, "");
    this.clear();
    scene.updateMatrixWorld(true);
    const box = new three.Box3().setFromObject(scene);
    const middle = box.getCenter(new three.Vector3());
    const scale = 2 / Math.max(box.getSize(new three.Vector3()).length(), 1e-9);
    this.placing = { middle, scale };
    scene.traverse((node) => {
      if (!(node instanceof three.Mesh)) return;
      const found = node as three.Mesh<three.BufferGeometry, three.Material>;
      const geometry = found.geometry;
      geometry.translate(-middle.x, -middle.y, -middle.z).scale(scale, scale, scale);
      prepare(geometry);
      const mesh = new three.Mesh<three.BufferGeometry, three.Material>(geometry, this.grey);
      this.parts.push({ part: nameOf(node), slot: Number(found.material.name), mesh });
      this.holder.add(mesh);
    });
  }

  /** Let a slot wear a material; null takes it off. */
  async wear(slot: number, one: PreviewMaterial | null): Promise<void> {
    if (!one) {
      this.worn.get(slot)?.dispose();
      this.worn.delete(slot);
      return;
    }
    const material = this.worn.get(slot) ?? new SheetMaterial();
    this.worn.set(slot, material);
    await material.apply(one);
  }

  weigh(slot: number, one: SlotDensity | null): void {
    const material = this.density.get(slot) ?? densityMaterial();
    this.density.set(slot, material);
    material.uniforms.texels!.value = one?.texels ?? 0;
    material.uniforms.wanted!.value = one?.wanted ?? 0;
  }

  private under(x: number, y: number): three.Intersection | undefined {
    const ray = new three.Raycaster();
    ray.setFromCamera(new three.Vector2(x, y), this.camera);
    return ray.intersectObjects(
      this.parts.filter((one) => one.mesh.visible).map((one) => one.mesh),
      false,
    )[0];
  }

  /** The part and the slot at a place of the canvas, from -1 to 1 along both axes; null where there is nothing. */
  pick(x: number, y: number): { part: string; slot: number } | null {
    const hit = this.under(x, y);
    const found = this.parts.find((one) => one.mesh === hit?.object);
    return found ? { part: found.part, slot: found.slot } : null;
  }

  /** The place on the surface at a place of the canvas, in units of the file; null where there is nothing. */
  touch(x: number, y: number, pressure: number): SurfacePoint | null {
    const hit = this.under(x, y);
    return hit ? pointOf(hit, this.placing, pressure) : null;
  }

  /** The pieces of a slot as the brush paints them; of all slots for null. */
  pieces(slot: number | null): DrawnPiece[] {
    const some = this.parts.filter((one) => slot === null || one.slot === slot);
    return some.map((one) => pieceOf(one.mesh.geometry, this.placing));
  }

  /** Draw pieces with the colours that they have now. */
  recolour(pieces: readonly PaintedPiece[]): void {
    for (const one of pieces as DrawnPiece[]) one.geometry.getAttribute("ftVertex").needsUpdate = true;
  }

  showBrush(point: SurfacePoint | null, radius: number): void {
    this.ring.show(point, radius, this.placing);
  }

  orbitBy(x: number, y: number): void {
    this.orbit.around -= x * 0.01;
    this.orbit.above = Math.max(-1.5, Math.min(1.5, this.orbit.above + y * 0.01));
  }

  zoomBy(factor: number): void {
    this.orbit.away = Math.max(0.6, Math.min(9, this.orbit.away * factor));
  }

  resize(width: number, height: number): void {
    this.shared.resize(width, height, detail.value);
  }

  draw(look: ModelLook): void {
    this.dress(look);
    this.mark(look.slot);
    this.shared.show((used, width, height) => this.render(look, used, width, height));
  }

  private dress(look: ModelLook): void {
    this.colours.uniforms.alphaAlone!.value = look.alpha ? 1 : 0;
    for (const { part, slot, mesh } of this.parts) {
      mesh.visible = !look.hidden.includes(part);
      const worn = this.worn.get(slot);
      if (look.mode === "density") mesh.material = this.density.get(slot) ?? this.grey;
      else if (look.mode === "colours") mesh.material = this.colours;
      else if (look.mode === "plain") mesh.material = this.grey;
      else mesh.material = worn?.ready ? worn.material : this.striped;
      if (worn?.ready) worn.show("lit", "", false, false);
    }
    for (const line of this.marked) line.visible = line.parent?.visible ?? false;
  }

  /** Outline the pieces of the slot in hand where its surface bends or ends. */
  private mark(slot: number): void {
    if (slot === this.markedSlot) return;
    this.markedSlot = slot;
    for (const line of this.marked) {
      line.geometry.dispose();
      line.removeFromParent();
    }
    this.marked = this.parts
      .filter((one) => one.slot === slot && one.mesh.geometry.getAttribute("position").count < MOST_OUTLINED)
      .map(({ mesh }) => {
        const line = new three.LineSegments(new three.EdgesGeometry(mesh.geometry, 30), this.edge);
        mesh.add(line);
        return line;
      });
  }

  private render(look: ModelLook, used: three.WebGLRenderer, width: number, height: number): void {
    used.toneMapping =
      look.mode === "density" || look.mode === "colours" ? three.NoToneMapping : three.NeutralToneMapping;
    used.toneMappingExposure = 1;
    const angle = (look.turn * Math.PI) / 180;
    this.light.position.set(Math.sin(angle) * 3, 2.4, Math.cos(angle) * 3);
    this.scene.environmentRotation.y = angle;
    const { around, above, away } = this.orbit;
    this.camera.position.set(
      Math.sin(around) * Math.cos(above) * away,
      Math.sin(above) * away,
      Math.cos(around) * Math.cos(above) * away,
    );
    this.camera.lookAt(0, 0, 0);
    const half = Math.tan((35 * Math.PI) / 360) / Math.min(1, width / height);
    this.camera.fov = (Math.atan(half) * 360) / Math.PI;
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    used.render(this.scene, this.camera);
  }

  /** A PNG of the picture at another size. */
  still(look: ModelLook, side: number): string {
    this.dress(look);
    return at(side, side, (used, wide, high) => this.render(look, used, wide, high)).toDataURL("image/png");
  }

  private clear(): void {
    this.mark(-1);
    for (const { mesh } of this.parts) {
      mesh.geometry.dispose();
      this.holder.remove(mesh);
    }
    this.parts = [];
    this.markedSlot = -2;
  }

  dispose(): void {
    this.clear();
    for (const one of this.worn.values()) one.dispose();
    for (const one of this.density.values()) one.dispose();
    this.colours.dispose();
    this.ring.dispose();
    this.striped.dispose();
    this.grey.dispose();
    this.edge.dispose();
  }
}

/** Outlines of larger pieces would take longer than they tell. */
const MOST_OUTLINED = 200_000;

/** The loader numbers nodes of one name; the name as it was lies beside. */
function nameOf(node: three.Object3D): string {
  const kept =
    (node.userData as { name?: string }).name ?? (node.parent?.userData as { name?: string })?.name;
  return kept ?? node.name;
}

/** What sheets read: normals, UVs, vertex colours. */
function prepare(geometry: three.BufferGeometry): void {
  if (!geometry.getAttribute("normal")) geometry.computeVertexNormals();
  const count = geometry.getAttribute("position").count;
  if (!geometry.getAttribute("uv"))
    geometry.setAttribute("uv", new three.BufferAttribute(new Float32Array(count * 2), 2));
  const given = geometry.getAttribute("color");
  const colours = new Float32Array(count * 4);
  for (let at = 0; at < count; at++)
    colours.set(
      given
        ? [given.getX(at), given.getY(at), given.getZ(at), given.itemSize > 3 ? given.getW(at) : 1]
        : [0, 0, 0, 1],
      at * 4,
    );
  geometry.setAttribute("ftVertex", new three.BufferAttribute(colours, 4));
  geometry.setAttribute("ftUv1", geometry.getAttribute("uv1") ?? geometry.getAttribute("uv"));
}
