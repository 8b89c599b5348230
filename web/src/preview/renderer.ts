/** One renderer for every surface of the page: surroundings and compiled sheets stay from one to the next. */
import * as three from "three";

import { type Environment, roomOf } from "./stage";

const rooms = new Map<Environment, three.Texture>();
/** Materials that nothing wears any more, but whose compiled programs may be wanted soon. */
const resting: three.Material[] = [];
const MOST_RESTING = 8;
let shared: three.WebGLRenderer | null = null;

/** Made when it is first asked for. Throws where the browser shows no WebGL. */
export function renderer(): three.WebGLRenderer {
  if (!shared) {
    shared = new three.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
    shared.domElement.addEventListener("webglcontextlost", () => {
      shared = null;
      rooms.clear();
      resting.length = 0;
    });
  }
  return shared;
}

/** The light of a room from all sides. */
export function environmentOf(name: Environment): three.Texture {
  let found = rooms.get(name);
  if (!found) {
    const maker = new three.PMREMGenerator(renderer());
    found = maker.fromScene(roomOf(name), 0.02).texture;
    maker.dispose();
    rooms.set(name, found);
  }
  return found;
}

/** Lay a material aside; it is thrown away when enough others were laid aside after it. */
export function layAside(material: three.Material): void {
  resting.push(material);
  if (resting.length > MOST_RESTING) resting.shift()!.dispose();
}

/** Where a surface is shown: a canvas of the page, onto which the shared renderer's picture is copied. */
export class SharedRenderer {
  private readonly onto: CanvasRenderingContext2D;
  width = 1;
  height = 1;

  constructor(private readonly canvas: HTMLCanvasElement) {
    renderer();
    this.onto = canvas.getContext("2d")!;
  }

  /** Of the canvas in pixels of the page; share: how many of them are drawn, along each side. */
  resize(width: number, height: number, share: number): void {
    this.width = Math.max(1, Math.floor(width * share));
    this.height = Math.max(1, Math.floor(height * share));
    this.canvas.width = this.width;
    this.canvas.height = this.height;
  }

  /** Draw with the shared renderer at this size, and copy. */
  show(draw: (renderer: three.WebGLRenderer, width: number, height: number) => void): void {
    const made = at(this.width, this.height, draw);
    this.onto.clearRect(0, 0, this.width, this.height);
    this.onto.drawImage(made, 0, 0);
  }
}

/** The renderer's canvas after drawing at a size; it is good until the next drawing. */
export function at(
  width: number,
  height: number,
  draw: (renderer: three.WebGLRenderer, width: number, height: number) => void,
): HTMLCanvasElement {
  const used = renderer();
  const size = used.getSize(new three.Vector2());
  if (size.x !== width || size.y !== height) used.setSize(width, height, false);
  used.setScissorTest(false);
  used.setViewport(0, 0, width, height);
  draw(used, width, height);
  return used.domElement;
}
