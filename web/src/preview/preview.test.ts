import { afterEach, describe, expect, it, vi } from "vitest";

import type { Cast, Sheet, SheetSlot } from "@/api/materials";
import { slotSources, materialAfterUpdate } from "@/screens/materials/previewMaterials";
import { STAGES } from "@/tests/stages";

import { readMesh } from "./ownMesh";
import { withSheet } from "./sheetShader";
import { ENVIRONMENTS, geometryOf, roomOf } from "./stage";

afterEach(() => vi.unstubAllGlobals());

const file = (name: string, text: string) => new File([text], name);
const OBJ = `
v -2 0 0\nv 2 0 0\nv 2 4 0\nv -2 4 0
usemtl front\nf 1 2 3
usemtl back\nf 1 3 4
`;

describe("an own mesh", () => {
  it("lists its material slots and is fitted to the stage, with normals and coordinates", async () => {
    const made = await readMesh([file("wall.obj", OBJ)]);
    expect(made.slots).toEqual(["front", "back"]);
    expect(made.hasColours).toBe(false);
    for (const { geometry } of made.parts) {
      const place = geometry.getAttribute("position");
      for (let at = 0; at < place.count; at++) {
        expect(Math.hypot(place.getX(at), place.getY(at), place.getZ(at))).toBeLessThanOrEqual(1.26);
      }
      expect(geometry.getAttribute("normal").count).toBe(place.count);
      expect(geometry.getAttribute("uv").count).toBe(place.count);
    }
  });

  it("says what is wrong with a file", async () => {
    await expect(readMesh([file("a.stl", "")])).rejects.toThrow(
      "a.stl: only .obj, .gltf and .glb can be read",
    );
    await expect(readMesh([file("a.obj", "#")])).rejects.toThrow("a.obj: there is no mesh in it");
    await expect(readMesh([file("a.gltf", "{")])).rejects.toThrow("a.gltf");
    const apart = JSON.stringify({
      asset: { version: "2.0" },
      buffers: [{ uri: "to%20a/deck.bin", byteLength: 36 }],
    });
    await expect(readMesh([file("a.gltf", apart)])).rejects.toThrow(
      "it needs deck.bin; choose them together",
    );
  });

  it("takes the buffers that are chosen with it", async () => {
    vi.stubGlobal("ProgressEvent", class {});
    const places = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]);
    const document = {
      asset: { version: "2.0" },
      buffers: [{ uri: "deck.bin", byteLength: 36 }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      accessors: [
        { bufferView: 0, componentType: 5126, count: 3, type: "VEC3", min: [0, 0, 0], max: [1, 1, 0] },
      ],
      materials: [{ name: "planks" }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
      nodes: [{ mesh: 0 }],
      scenes: [{ nodes: [0] }],
      scene: 0,
    };
    const made = await readMesh([
      new File([places], "deck.bin"),
      file("deck.gltf", JSON.stringify(document)),
    ]);
    expect(made.slots).toEqual(["planks"]);
    expect(made.parts[0]!.geometry.getAttribute("position").count).toBe(3);
  });
});

describe("a stage", () => {
  it("has rooms without any hue, and shapes that can be lifted", () => {
    for (const name of ENVIRONMENTS) {
      roomOf(name).traverse((node) => {
        const { material } = node as unknown as {
          material?: { color?: { r: number; g: number; b: number } };
        };
        const colour = material?.color;
        if (colour) expect([colour.g, colour.b]).toEqual([colour.r, colour.r]);
      });
    }
    expect(geometryOf("plane").getAttribute("position").count).toBeGreaterThan(10_000);
  });
});

describe("a sheet's shader", () => {
  const shader = { code: "  vec2 c_main = uv0;\n", uniforms: [], samplers: {} };

  it("lifts the surface only where the sheet has a height", () => {
    expect(withSheet(shader, [], STAGES).vertexShader).not.toContain("ft_surface(");
    const lifted = withSheet(shader, [], STAGES, { lifted: true });
    expect(lifted.vertexShader).toContain("ftLifted.height - 0.5");
    expect(lifted.fragmentShader).toContain("dFdx(ftHeight)");
  });

  it("has a coat and a sheen only where the sheet sets one, and a chequer where its maps are read", () => {
    expect(withSheet(shader, [], STAGES).fragmentShader).not.toContain("ft.coat");
    expect(withSheet(shader, [], STAGES, { fuller: true }).fragmentShader).toContain("ft.coat");
    expect(withSheet(shader, [], STAGES, { fuller: true }).fragmentShader).toContain("ft.subsurface_color");
    expect(withSheet(shader, [], STAGES).fragmentShader).toContain("vec2 c_main = uv0; ftPlaced = c_main;");
  });
});

describe("light that goes through a sheet", () => {
  const shader = { code: "", uniforms: [], samplers: {} };

  it("goes through the renderer's own part, by the sheet's amount", () => {
    const through = "material.transmission = transmission; more();";
    const made = withSheet(shader, [], STAGES, { fuller: true, through }).fragmentShader;
    expect(made).toContain("material.transmission = clamp(ft.transmission, 0.0, 1.0); more();");
    expect(() => withSheet(shader, [], STAGES, { fuller: true, through: "other" })).toThrow("transmission");
  });

  it("is not there below a cut-off that the sheet computes", () => {
    expect(withSheet(shader, [], STAGES).fragmentShader).toContain("ft.opacity < ft.cut_off) discard");
  });
});

describe("a cast under another version", () => {
  const slot = (name: string) =>
    ({ name, role: "base_color", colour_space: "srgb", default: "white", is_normal: false }) as SheetSlot;
  const fill = { slot: "colour", set: 7, version: 1, role: null };
  const sheet = { slots: [slot("colour"), slot("other")], parameters: [] } as unknown as Sheet;

  it("is as the server says that the update would leave it", () => {
    const values = { lift: [3], dull: [0.5] };
    const material = materialAfterUpdate(
      "ferry",
      { cast: 2, name: "Mud", kept: 1, lost: {}, values, fills: [fill] },
      sheet,
    );
    expect(material.values).toEqual(values);
    expect(material.slots.colour!.url).toContain("set=7");
    expect(material.slots.other!.url).toBeNull();
  });

  it.each([
    ["map_missing", null],
    ["set_missing", null],
    ["licence_missing", "set=7"],
  ])("reads a slot's picture unless its map is not there: %s", (check, shown) => {
    const remarks = [{ slot: "colour", severity: "error", check, message: "" }] as Cast["remarks"];
    const { url } = slotSources("ferry", [slot("colour")], { fills: [fill], remarks }).colour!;
    if (shown) expect(url).toContain(shown);
    else expect(url).toBeNull();
  });
});
