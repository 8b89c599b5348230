/** A mesh of the user's own, from OBJ or glTF 2.0: its parts by material slot, fitted to the stage. */
import * as three from "three";

export interface OwnMesh {
  name: string;
  /** Material slots in the order of the file. */
  slots: string[];
  parts: { slot: string; geometry: three.BufferGeometry }[];
  hasColours: boolean;
}
const LARGEST = 200e6;
/** Of the ball around the mesh on the stage, so that it is seen whole from every side. */
const RADIUS = 1.25;

/** Read a file. Throws an Error that says what is wrong with it. */
export async function readMesh(file: File): Promise<OwnMesh> {
  if (file.size > LARGEST) throw new Error(`${file.name}: a mesh has at most ${LARGEST / 1e6} MB`);
  const kind = file.name.toLowerCase().split(".").at(-1);
  let root: three.Object3D;
  try {
    if (kind === "obj") root = await fromObj(await file.text());
    else if (kind === "glb" || kind === "gltf") root = await fromGltf(await file.arrayBuffer());
    else throw new Error("only .obj, .gltf and .glb can be read");
  } catch (error) {
    throw new Error(`${file.name}: ${(error as Error).message}`, { cause: error });
  }
  return fitted(file.name, root);
}

async function fromObj(text: string): Promise<three.Object3D> {
  const { OBJLoader } = await import("three/examples/jsm/loaders/OBJLoader.js");
  return new OBJLoader().parse(text);
}

async function fromGltf(data: ArrayBuffer): Promise<three.Object3D> {
  const { GLTFLoader } = await import("three/examples/jsm/loaders/GLTFLoader.js");
  const loader = new GLTFLoader();
  // Only the shape is wanted: pictures and buffers outside the file are not there to be read.
  loader.manager.setURLModifier((url) => (/^(data|blob):/.test(url) ? url : "data:,"));
  return (await loader.parseAsync(data, "")).scene;
}

/** Every mesh below, in the place that the file gives it, split by material. */
function fitted(name: string, root: three.Object3D): OwnMesh {
  root.updateMatrixWorld(true);
  const parts: OwnMesh["parts"] = [];
  const slots: string[] = [];
  let hasColours = false;
  root.traverse((node) => {
    if (!(node instanceof three.Mesh)) return;
    const mesh = node as three.Mesh<three.BufferGeometry, three.Material | three.Material[]>;
    const whole = mesh.geometry.clone().applyMatrix4(mesh.matrixWorld);
    if (!whole.getAttribute("normal")) whole.computeVertexNormals();
    const count = whole.getAttribute("position").count;
    if (!whole.getAttribute("uv"))
      whole.setAttribute("uv", new three.BufferAttribute(new Float32Array(count * 2), 2));
    hasColours ||= whole.getAttribute("color") !== undefined;
    const materials = Array.isArray(mesh.material) ? mesh.material : [mesh.material];
    const groups =
      whole.groups.length && Array.isArray(mesh.material)
        ? whole.groups
        : [{ start: 0, count: Infinity, materialIndex: 0 }];
    for (const group of groups) {
      const slot = materials[group.materialIndex ?? 0]?.name || "without a name";
      if (!slots.includes(slot)) slots.push(slot);
      const geometry = groups.length > 1 ? whole.clone() : whole;
      geometry.clearGroups();
      geometry.setDrawRange(group.start, group.count);
      parts.push({ slot, geometry });
    }
  });
  if (!parts.length) throw new Error(`${name}: there is no mesh in it`);
  const box = new three.Box3();
  for (const { geometry } of parts) {
    geometry.computeBoundingBox();
    box.union(geometry.boundingBox!);
  }
  const middle = box.getCenter(new three.Vector3());
  const scale = (2 * RADIUS) / Math.max(box.getSize(new three.Vector3()).length(), 1e-9);
  for (const { geometry } of parts) {
    geometry.translate(-middle.x, -middle.y, -middle.z).scale(scale, scale, scale);
  }
  return { name, slots, parts, hasColours };
}
