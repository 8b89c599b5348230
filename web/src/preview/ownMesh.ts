/** A mesh of the user's own, from OBJ or glTF 2.0: its parts by material slot, fitted to the stage. */
import * as three from "three";

import { t } from "@/texts/preview";

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

const MESHES = ["obj", "glb", "gltf"];
const endingOf = (name: string) => name.toLowerCase().split(".").at(-1)!;

/** Read a mesh from its file, and from the buffers chosen with it. Throws an Error that says what is wrong. */
export async function readMesh(files: File[]): Promise<OwnMesh> {
  const file = files.find((one) => MESHES.includes(endingOf(one.name))) ?? files[0]!;
  const beside = files.filter((one) => one !== file);
  if (file.size > LARGEST) throw new Error(t("aMeshHasAtMostMb", { name: file.name, e6: LARGEST / 1e6 }));
  const kind = endingOf(file.name);
  let root: three.Object3D;
  try {
    if (kind === "obj") root = await fromObj(await file.text());
    else if (kind === "glb" || kind === "gltf") root = await fromGltf(await file.arrayBuffer(), beside);
    else throw new Error(t("onlyObjGltfAndGlbCan"));
  } catch (error) {
    throw new Error(`${file.name}: ${(error as Error).message}`, { cause: error });
  }
  return fitted(file.name, root);
}

async function fromObj(text: string): Promise<three.Object3D> {
  const { OBJLoader } = await import("three/examples/jsm/loaders/OBJLoader.js");
  return new OBJLoader().parse(text);
}

/** The last part of an address in a document, as a file is called. */
const nameIn = (uri: string) => decodeURIComponent(uri).split(/[\\/]/).at(-1)!;

interface GltfDocument {
  buffers?: { uri?: string }[];
}

async function fromGltf(data: ArrayBuffer, beside: File[]): Promise<three.Object3D> {
  const { GLTFLoader } = await import("three/examples/jsm/loaders/GLTFLoader.js");
  const loader = new GLTFLoader();
  // Only the shape is wanted: pictures outside the file are not read, nothing is ever asked of another machine.
  loader.manager.setURLModifier((url) => (/^(data|blob):/.test(url) ? url : "data:,"));
  const binary = new TextDecoder().decode(data.slice(0, 4)) === "glTF";
  const whole = binary ? data : await withBuffers(new TextDecoder().decode(data), beside);
  return (await loader.parseAsync(whole, "")).scene;
}

/** A glTF document with the buffers that lie beside it put into it. Throws an Error that names those not chosen. */
async function withBuffers(text: string, beside: File[]): Promise<string> {
  const document = JSON.parse(text) as GltfDocument;
  const missing: string[] = [];
  for (const buffer of document.buffers ?? []) {
    if (buffer.uri === undefined || buffer.uri.startsWith("data:")) continue;
    const name = nameIn(buffer.uri);
    const file = beside.find((one) => one.name === name);
    if (file) buffer.uri = await dataAddressOf(file);
    else missing.push(name);
  }
  if (missing.length) throw new Error(t("itNeedsFiles", { files: missing.join(", ") }));
  return JSON.stringify(document);
}

function dataAddressOf(file: File): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(new Error(t("cannotBeRead", { name: file.name })));
    reader.readAsDataURL(new Blob([file], { type: "application/octet-stream" }));
  });
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
      const slot = materials[group.materialIndex ?? 0]?.name || t("withoutAName");
      if (!slots.includes(slot)) slots.push(slot);
      const geometry = groups.length > 1 ? whole.clone() : whole;
      geometry.clearGroups();
      geometry.setDrawRange(group.start, group.count);
      parts.push({ slot, geometry });
    }
  });
  if (!parts.length) throw new Error(t("thereIsNoMeshInIt", { name }));
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
