/** The set on a surface: shapes, an environment of our own, a light to turn, and what a target may misread. */
import * as three from "three";

import { detail } from "./detail";
import { SharedRenderer, environmentOf, layAside } from "./renderer";
import type { Look, Misread, Shape, Slots } from "./readings";
import { geometryOf } from "./stage";

export type { Look, Shape, Slots };

export class SurfaceScene {
  private readonly shared: SharedRenderer;
  private readonly scene = new three.Scene();
  private readonly camera = new three.PerspectiveCamera(35, 1, 0.1, 50);
  private readonly material = new three.MeshStandardMaterial();
  private readonly mesh: three.Mesh;
  private readonly light = new three.DirectionalLight(0xffffff, 2.2);
  private readonly textures = new Map<string, three.Texture>();
  private slots: Slots = {};
  private before: Slots | null = null;
  private shape: Shape = "sphere";
  private orbit = { around: 0.5, above: 0.25, away: 3.9 };

  constructor(canvas: HTMLCanvasElement) {
    this.shared = new SharedRenderer(canvas);
    this.scene.environment = environmentOf("studio");
    this.mesh = new three.Mesh(geometryOf("sphere"), this.material);
    this.scene.add(this.mesh, this.light);
  }

  /** Load the pictures of a set, and of how it was before; those already here are kept. */
  async show(slots: Slots, before: Slots | null): Promise<void> {
    this.slots = slots;
    this.before = before;
    const wanted = [slots, before ?? {}]
      .flatMap((one) => [one.base_color, one.normal, one.pack, one.emissive])
      .filter((url) => url !== undefined);
    for (const [url, texture] of this.textures) {
      if (wanted.includes(url)) continue;
      texture.dispose();
      this.textures.delete(url);
    }
    const loader = new three.TextureLoader();
    await Promise.all(
      wanted.map(async (url) => {
        if (this.textures.has(url)) return;
        const texture = await loader.loadAsync(url);
        texture.wrapS = texture.wrapT = three.RepeatWrapping;
        texture.anisotropy = 4;
        this.textures.set(url, texture);
      }),
    );
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

  private texture(url: string | undefined, space: three.ColorSpace): three.Texture | null {
    const texture = url ? this.textures.get(url) : undefined;
    if (!texture) return null;
    if (texture.colorSpace !== space) {
      texture.colorSpace = space;
      texture.needsUpdate = true;
    }
    return texture;
  }

  private applyMaterial(look: Look, slots: Slots, misread: Misread): void {
    const { material } = this;
    const data = misread === "data_as_srgb" ? three.SRGBColorSpace : three.NoColorSpace;
    const pack = this.texture(slots.pack, data);
    const before = [
      material.map,
      material.normalMap,
      material.roughnessMap,
      material.metalnessMap,
      material.aoMap,
      material.emissiveMap,
    ]
      .map(Boolean)
      .join();
    material.map = look.maps.base_color ? this.texture(slots.base_color, three.SRGBColorSpace) : null;
    material.color.set(material.map ? 0xffffff : 0x808080);
    material.normalMap = look.maps.normal ? this.texture(slots.normal, three.NoColorSpace) : null;
    material.normalScale.set(1, misread === "green_flipped" ? -1 : 1);
    material.roughnessMap = look.maps.roughness ? pack : null;
    material.roughness = material.roughnessMap ? 1 : 0.5;
    material.metalnessMap = look.maps.metallic ? pack : null;
    material.metalness = material.metalnessMap ? 1 : 0;
    material.aoMap = look.maps.occlusion ? pack : null;
    material.emissiveMap = look.maps.emissive ? this.texture(slots.emissive, three.SRGBColorSpace) : null;
    material.emissive.set(material.emissiveMap ? 0xffffff : 0);
    material.alphaTest = slots.alpha && material.map ? 0.5 : 0;
    material.side = slots.alpha || look.shape === "plane" ? three.DoubleSide : three.FrontSide;
    const after = [
      material.map,
      material.normalMap,
      material.roughnessMap,
      material.metalnessMap,
      material.aoMap,
      material.emissiveMap,
    ]
      .map(Boolean)
      .join();
    if (before !== after) material.needsUpdate = true;
  }

  /** Draw once: the surface, or under the same light left and right: as it was and is, as it is and is misread. */
  draw(look: Look): void {
    this.shared.show((used, width, height) => this.render(look, used, width, height));
  }

  private render(look: Look, used: three.WebGLRenderer, wide: number, high: number): void {
    used.toneMapping = three.NeutralToneMapping;
    used.toneMappingExposure = 1;
    if (look.shape !== this.shape) {
      this.mesh.geometry.dispose();
      this.mesh.geometry = geometryOf(look.shape);
      this.shape = look.shape;
    }
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
    const parts: [Slots, Misread][] = [[this.slots, "none"]];
    if (look.against === "before") {
      if (this.before) parts.unshift([this.before, "none"]);
    } else if (look.against !== "none") parts.push([this.slots, look.against]);
    const width = Math.floor(wide / parts.length);
    this.camera.aspect = width / high;
    this.camera.updateProjectionMatrix();
    used.setScissorTest(true);
    parts.forEach(([slots, misread], index) => {
      this.applyMaterial(look, slots, misread);
      used.setViewport(index * width, 0, width, high);
      used.setScissor(index * width, 0, width, high);
      used.render(this.scene, this.camera);
    });
  }

  dispose(): void {
    for (const texture of this.textures.values()) texture.dispose();
    this.mesh.geometry.dispose();
    layAside(this.material);
  }
}
