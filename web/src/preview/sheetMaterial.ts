/** A sheet as a material of the renderer: the shader that the core generated, its uniforms live. */
import * as three from "three";

import type { Sheet, Shader } from "@/api/materials";

import { layAside } from "./renderer";
import { MISREAD, SHOWN, type Shown, withSheet } from "./sheetShader";

/** What fills a slot: a picture's address, or a plain colour, one value a channel. */
export interface SlotSource {
  url: string | null;
  srgb: boolean;
  plain: [number, number, number, number];
}
/** A sheet with the values and maps of a cast. */
export interface PreviewMaterial {
  name: string;
  sheet: Sheet;
  values: Record<string, number[]>;
  slots: Record<string, SlotSource>;
}
type Uniform = three.IUniform<unknown>;

/** Inputs that the plain surface has no part for; a sheet that sets one gets the fuller surface, which costs more. */
const FULLER = [
  "specular",
  "coat",
  "coat_roughness",
  "coat_normal",
  "sheen",
  "sheen_roughness",
  "transmission",
  "ior",
  "specular_color",
  "anisotropy",
  "subsurface",
];

const WRAPPING: Record<string, three.Wrapping> = {
  repeat: three.RepeatWrapping,
  clamp: three.ClampToEdgeWrapping,
  mirror: three.MirroredRepeatWrapping,
};

export class SheetMaterial {
  material: three.MeshStandardMaterial = new three.MeshStandardMaterial();
  ready = false;
  private readonly textures = new Map<string, three.Texture>();
  private readonly uniforms: Record<string, Uniform> = {
    ftShow: { value: 0 },
    ftAlpha: { value: 0 },
    ftCut: { value: 0 },
    ftMisread: { value: 0 },
    ftDisplace: { value: 0 },
    ftTime: { value: 0 },
    ftRandom: { value: 0.5 },
  };
  private shader: Shader | null = null;
  private applied = "";

  /** Put a cast on. Only another sheet compiles; pictures already here are kept. */
  async apply(one: PreviewMaterial): Promise<void> {
    const { shader } = one.sheet;
    if (!shader) return;
    const key = shader.code + one.sheet.opacity_mode + one.sheet.cut_off;
    if (key !== this.applied) this.compile(one.sheet, shader);
    this.applied = key;
    this.set(one.values);
    await this.fill(one.slots, one.sheet.slots);
    this.ready = true;
  }

  private compile(sheet: Sheet, shader: Shader): void {
    this.shader = shader;
    const set = new Set(sheet.rows.filter((row) => row.is_input).map((row) => row.name));
    const fuller = FULLER.some((name) => set.has(name));
    const lifted = set.has("height");
    const material = fuller
      ? new three.MeshPhysicalMaterial({
          side: three.DoubleSide,
          clearcoat: set.has("coat") ? 1 : 0,
          sheen: set.has("sheen") ? 1 : 0,
          anisotropy: set.has("anisotropy") ? 1 : 0,
          transmission: set.has("transmission") ? 1 : 0,
        })
      : new three.MeshStandardMaterial({ side: three.DoubleSide });
    for (const one of shader.uniforms) {
      if (one.parameter) this.uniforms[one.name] ??= { value: valueOf(one.type, one.default ?? []) };
      else this.uniforms[one.name] ??= { value: null };
    }
    // A cut-off that the sheet computes is compared in its own shader.
    const cut = sheet.opacity_mode === "cut_out";
    this.uniforms.ftCut!.value = cut && set.has("cut_off") ? 1 : 0;
    material.alphaTest = cut && !set.has("cut_off") ? sheet.cut_off : 0;
    material.transparent = sheet.opacity_mode === "blend";
    this.uniforms.ftAlpha!.value = sheet.opacity_mode === "opaque" ? 0 : 1;
    material.onBeforeCompile = (stages) => {
      const through = set.has("transmission") ? three.ShaderChunk.transmission_fragment : "";
      Object.assign(stages, withSheet(shader, sheet.slots, stages, { fuller, lifted, through }));
      Object.assign(stages.uniforms, this.uniforms);
    };
    material.customProgramCacheKey = () => `${fuller} ${shader.code}`;
    layAside(this.material);
    this.material = material;
  }

  /** Parameter values, by name; nothing is compiled. */
  set(values: Record<string, number[]>): void {
    for (const one of this.shader?.uniforms ?? []) {
      const value = one.parameter ? values[one.parameter] : undefined;
      if (value) this.uniforms[one.name]!.value = valueOf(one.type, value);
    }
  }

  private async fill(slots: Record<string, SlotSource>, sheet: Sheet["slots"]): Promise<void> {
    const how = new Map(sheet.map((one) => [one.name, one]));
    const loader = new three.TextureLoader();
    const wanted = new Set<string>();
    await Promise.all(
      Object.entries(slots).map(async ([slot, source]) => {
        const { wrap, filter } = how.get(slot) ?? { wrap: "repeat", filter: "linear" };
        const key = `${source.url ?? source.plain.join()} ${source.srgb} ${wrap} ${filter}`;
        wanted.add(key);
        if (!this.textures.has(key)) {
          const texture = source.url ? await loader.loadAsync(source.url) : plain(source.plain);
          texture.flipY = false;
          texture.wrapS = texture.wrapT = WRAPPING[wrap] ?? three.RepeatWrapping;
          if (filter === "nearest") texture.magFilter = texture.minFilter = three.NearestFilter;
          texture.colorSpace = source.url && source.srgb ? three.SRGBColorSpace : three.NoColorSpace;
          if (source.url && filter !== "nearest") texture.anisotropy = 4;
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

  /** How it is looked at. */
  show(shown: Shown, misread: string, wire: boolean, displace: boolean): void {
    this.uniforms.ftShow!.value = SHOWN.indexOf(shown);
    this.uniforms.ftMisread!.value = Math.max(0, (MISREAD as readonly string[]).indexOf(misread));
    this.uniforms.ftDisplace!.value = displace ? 1 : 0;
    this.material.wireframe = wire;
  }

  /** Whether light goes through it, so that there has to be something behind it. */
  get transmits(): boolean {
    return this.material instanceof three.MeshPhysicalMaterial && this.material.transmission > 0;
  }

  /** Seconds, for sheets that move. */
  setTime(seconds: number): void {
    this.uniforms.ftTime!.value = seconds;
  }

  dispose(): void {
    for (const texture of this.textures.values()) texture.dispose();
    layAside(this.material);
  }
}

function valueOf(type: string, value: number[]): unknown {
  if (type === "vec2") return new three.Vector2(value[0], value[1]);
  if (type === "vec3") return new three.Vector3(value[0], value[1], value[2]);
  if (type === "vec4") return new three.Vector4(value[0], value[1], value[2], value[3]);
  return value[0] ?? 0;
}

/** One texel of exact numbers. */
function plain(values: [number, number, number, number]): three.Texture {
  return new three.DataTexture(new Float32Array(values), 1, 1, three.RGBAFormat, three.FloatType);
}
