/** A sheet on a surface: the shader that the core generated, its uniforms live, drawn only when something changed. */
import * as three from "three";

import type { Shader, SheetSlot } from "@/api/materials";

import { MISREAD, SHOWN, type Shown, withSheet } from "./sheetShader";
import { geometryOf, room, type Shape } from "./stage";

/** What fills a slot: a picture's address, or a plain colour, one value a channel. */
export interface SlotSource {
  url: string | null;
  srgb: boolean;
  plain: [number, number, number, number];
}
export interface SheetLook {
  shape: Shape;
  /** Of the light, degrees around the vertical axis. */
  turn: number;
  exposure: number;
  toneMapped: boolean;
  shown: Shown;
  wire: boolean;
  vertex: Painted;
  /** A misreading to show beside the right reading, or "". */
  misread: string;
}
/** Vertex colours by simple rules of the place: plain channels, patches, from one side, from below. */
export const PAINTS = {
  none: () => [0, 0, 0, 1],
  red: () => [1, 0, 0, 1],
  green: () => [0, 1, 0, 1],
  blue: () => [0, 0, 1, 1],
  "no alpha": () => [0, 0, 0, 0],
  "red in patches": (x: number, y: number, z: number) => [
    Math.max(
      0,
      Math.min(1, 0.5 + 1.2 * Math.sin(2.3 * x + 1) * Math.sin(2.9 * y) + 0.8 * Math.sin(3.1 * z + x)),
    ),
    0,
    0,
    1,
  ],
  "red from the left": (x: number) => [Math.max(0, Math.min(1, 0.5 - x)), 0, 0, 1],
  "green from below": (_x: number, y: number) => [0, Math.max(0, Math.min(1, 0.5 - y)), 0, 1],
} satisfies Record<string, (x: number, y: number, z: number) => number[]>;
export type Painted = keyof typeof PAINTS;

export interface Opacity {
  mode: string;
  cutOff: number;
}
type Uniform = three.IUniform<unknown>;

export class SheetScene {
  private readonly renderer: three.WebGLRenderer;
  private readonly scene = new three.Scene();
  private readonly camera = new three.PerspectiveCamera(35, 1, 0.1, 50);
  private readonly light = new three.DirectionalLight(0xffffff, 2.2);
  private readonly mesh: three.Mesh<three.BufferGeometry, three.MeshStandardMaterial>;
  private readonly textures = new Map<string, three.Texture>();
  private readonly uniforms: Record<string, Uniform> = {
    ftShow: { value: 0 },
    ftAlpha: { value: 0 },
    ftMisread: { value: 0 },
  };
  private shader: Shader | null = null;
  private shape: Shape = "sphere";
  private painted = "";
  private orbit = { around: 0.5, above: 0.25, away: 3.9 };

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new three.WebGLRenderer({
      canvas,
      antialias: true,
      alpha: true,
      preserveDrawingBuffer: true,
    });
    const maker = new three.PMREMGenerator(this.renderer);
    this.scene.environment = maker.fromScene(room(), 0.02).texture;
    maker.dispose();
    this.mesh = new three.Mesh(geometryOf("sphere"), new three.MeshStandardMaterial());
    this.scene.add(this.mesh, this.light);
    this.paint("none");
  }

  /** Take another sheet: the one thing that compiles. */
  wear(shader: Shader, slots: SheetSlot[], opacity: Opacity): void {
    this.shader = shader;
    const material = new three.MeshStandardMaterial({ side: three.DoubleSide });
    for (const one of shader.uniforms) {
      if (one.parameter) this.uniforms[one.name] ??= { value: valueOf(one.type, one.default ?? []) };
      else this.uniforms[one.name] ??= { value: null };
    }
    material.alphaTest = opacity.mode === "cut_out" ? opacity.cutOff : 0;
    material.transparent = opacity.mode === "blend";
    this.uniforms.ftAlpha!.value = opacity.mode === "opaque" ? 0 : 1;
    material.onBeforeCompile = (stages) => {
      Object.assign(stages, withSheet(shader, slots, stages));
      Object.assign(stages.uniforms, this.uniforms);
    };
    material.customProgramCacheKey = () => shader.code;
    this.mesh.material.dispose();
    this.mesh.material = material;
  }

  /** Parameter values, by name; nothing is compiled. */
  set(values: Record<string, number[]>): void {
    for (const one of this.shader?.uniforms ?? []) {
      const value = one.parameter ? values[one.parameter] : undefined;
      if (value) this.uniforms[one.name]!.value = valueOf(one.type, value);
    }
  }

  /** Load what fills the slots; pictures already here are kept. */
  async fill(slots: Record<string, SlotSource>): Promise<void> {
    const loader = new three.TextureLoader();
    const wanted = new Set<string>();
    await Promise.all(
      Object.entries(slots).map(async ([slot, source]) => {
        const key = `${source.url ?? source.plain.join()} ${source.srgb}`;
        wanted.add(key);
        if (!this.textures.has(key)) {
          const texture = source.url ? await loader.loadAsync(source.url) : plain(source.plain);
          texture.flipY = false;
          texture.wrapS = texture.wrapT = three.RepeatWrapping;
          texture.colorSpace = source.url && source.srgb ? three.SRGBColorSpace : three.NoColorSpace;
          if (source.url) texture.anisotropy = 4;
          texture.needsUpdate = true;
          this.textures.set(key, texture);
        }
        const sampler = this.shader?.samplers[slot];
        if (sampler)
          this.uniforms[sampler] = Object.assign(this.uniforms[sampler] ?? { value: null }, {
            value: this.textures.get(key),
          });
      }),
    );
    for (const [key, texture] of this.textures) {
      if (wanted.has(key)) continue;
      texture.dispose();
      this.textures.delete(key);
    }
  }

  orbitBy(x: number, y: number): void {
    this.orbit.around -= x * 0.01;
    this.orbit.above = Math.max(-1.4, Math.min(1.4, this.orbit.above + y * 0.01));
  }

  zoomBy(factor: number): void {
    this.orbit.away = Math.max(1.5, Math.min(9, this.orbit.away * factor));
  }

  resize(width: number, height: number): void {
    this.renderer.setPixelRatio(1);
    this.renderer.setSize(width, height, false);
  }

  private frame(aspect: number): void {
    this.camera.aspect = aspect;
    // In a narrow frame the width is what has to hold the shape.
    const half = Math.tan((35 * Math.PI) / 360) / Math.min(1, this.camera.aspect);
    this.camera.fov = (Math.atan(half) * 360) / Math.PI;
    this.camera.updateProjectionMatrix();
  }

  private paint(how: Painted): void {
    if (this.painted === `${how} ${this.shape}`) return;
    this.painted = `${how} ${this.shape}`;
    const { geometry } = this.mesh;
    const place = geometry.getAttribute("position");
    const colours = new Float32Array(place.count * 4);
    for (let at = 0; at < place.count; at++) {
      colours.set(PAINTS[how](place.getX(at), place.getY(at), place.getZ(at)), at * 4);
    }
    geometry.setAttribute("ftVertex", new three.BufferAttribute(colours, 4));
  }

  draw(look: SheetLook): void {
    if (!this.shader) return;
    if (look.shape !== this.shape) {
      this.mesh.geometry.dispose();
      this.mesh.geometry = geometryOf(look.shape);
      this.shape = look.shape;
    }
    this.paint(look.vertex);
    this.mesh.material.wireframe = look.wire;
    this.uniforms.ftShow!.value = SHOWN.indexOf(look.shown);
    this.renderer.toneMapping = look.toneMapped ? three.NeutralToneMapping : three.LinearToneMapping;
    this.renderer.toneMappingExposure = 2 ** look.exposure;
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
    // The right reading alone, or left of a misreading under the same light.
    const parts = look.misread ? ["", look.misread] : [""];
    const size = this.renderer.getSize(new three.Vector2());
    const width = Math.floor(size.x / parts.length);
    this.frame(width / Math.max(1, size.y));
    this.renderer.setScissorTest(parts.length > 1);
    parts.forEach((misread, index) => {
      this.uniforms.ftMisread!.value = Math.max(0, (MISREAD as readonly string[]).indexOf(misread));
      this.renderer.setViewport(index * width, 0, width, size.y);
      this.renderer.setScissor(index * width, 0, width, size.y);
      this.renderer.render(this.scene, this.camera);
    });
  }

  /** A PNG of the picture at another size. */
  still(look: SheetLook, width: number, height: number): string {
    const before = this.renderer.getSize(new three.Vector2());
    this.resize(width, height);
    this.draw(look);
    const found = this.renderer.domElement.toDataURL("image/png");
    this.resize(before.x, before.y);
    return found;
  }

  dispose(): void {
    for (const texture of this.textures.values()) texture.dispose();
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
    this.scene.environment?.dispose();
    this.renderer.dispose();
  }
}

function valueOf(type: string, value: number[]): unknown {
  if (type === "vec2") return new three.Vector2(value[0], value[1]);
  if (type === "vec3") return new three.Vector3(value[0], value[1], value[2]);
  return value[0] ?? 0;
}

/** One texel of exact numbers. */
function plain(values: [number, number, number, number]): three.Texture {
  return new three.DataTexture(new Float32Array(values), 1, 1, three.RGBAFormat, three.FloatType);
}
