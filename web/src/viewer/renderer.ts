/** Draws one picture, or two compared, with WebGL 2: one channel or all, wiped or as an amplified difference. */

import { fetched } from "@/api/client";

import type { Channel, Comparison, Look } from "./look";
import { type Grid, TILE } from "./tiles";

export interface Frame {
  /** Canvas pixels a texel. */
  zoom: number;
  /** Canvas pixel of the picture's top left corner. */
  left: number;
  top: number;
  /** Where the wipe stands, 0 to 1 of the canvas. */
  split: number;
  look: Look;
  /** Mip level as the graphics card makes it, for pictures that have no levels of their own. */
  level: number;
  /** Tiles over the picture: for each cell, row by row, the layer plus one of either picture, 0 for none. */
  tiles: { grid: Grid; cells: Uint16Array } | null;
}

const VERTEX = `#version 300 es
void main() {
  vec2 corner = vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0;
  gl_Position = vec4(corner, 0.0, 1.0);
}`;

const FRAGMENT = `#version 300 es
precision highp float;
uniform highp sampler2DArray tiles;
uniform highp usampler2D cells;
uniform sampler2D picture, other;
uniform vec2 size, canvas, corner;
uniform float zoom, split, repeatCount, shift, exposure, gamma, level, gain, span, tileScale;
uniform int channel, comparison;
out vec4 colour;
vec3 tone(vec3 c) {
  if (exposure == 1.0 && gamma == 1.0) return c;
  return pow(clamp(c * exposure, 0.0, 1.0), vec3(1.0 / gamma));
}
vec3 pick(vec4 c, vec2 at) {
  if (channel == 4) {
    float odd = mod(floor(at.x / 8.0) + floor(at.y / 8.0), 2.0);
    return mix(vec3(0.4 + 0.2 * odd), tone(c.rgb), c.a);
  }
  return tone(channel == 0 ? c.rgb : channel == 1 ? c.rrr : channel == 2 ? c.ggg : c.bbb);
}
vec4 texel(sampler2D from, int which, vec2 inner, vec2 dx, vec2 dy) {
  if (span > 0.0) {
    vec2 at = inner * size;
    ivec2 cell = ivec2(at / span);
    uvec4 found = texelFetch(cells, cell, 0);
    uint layer = which == 0 ? found.r : found.g;
    if (layer > 0u) return textureLod(tiles, vec3((at - vec2(cell) * span) * tileScale, float(layer - 1u)), 0.0);
  }
  return level > 0.0 ? textureLod(from, inner, level) : textureGrad(from, inner, dx, dy);
}
void main() {
  vec2 at = vec2(gl_FragCoord.x, canvas.y - gl_FragCoord.y);
  float middle = canvas.x * 0.5;
  bool right = at.x >= middle;
  vec2 local = comparison == 3 && right ? at - vec2(middle, 0.0) : at;
  vec2 uv = (local - corner) / (size * zoom);
  vec2 inner = fract(uv + shift);
  bool outside = any(lessThan(uv, vec2(0.0))) || any(greaterThanEqual(uv, vec2(repeatCount)));
  // Taken before anything is thrown away: derivatives are undefined after a branch.
  vec2 dx = dFdx(uv), dy = dFdy(uv);
  if (outside) discard;
  vec4 mine = texel(picture, 0, inner, dx, dy);
  vec4 theirs = comparison == 0 ? mine : texel(other, 1, inner, dx, dy);
  if (comparison == 1) {
    float line = abs(at.x - split * canvas.x);
    vec3 shown = at.x < split * canvas.x ? pick(theirs, at) : pick(mine, at);
    colour = vec4(line < 1.0 ? vec3(1.0) : shown, 1.0);
  } else if (comparison == 2) {
    vec3 off = abs(mine.rgb - theirs.rgb) * gain;
    colour = vec4(channel == 1 ? off.rrr : channel == 2 ? off.ggg : channel == 3 ? off.bbb : off, 1.0);
  } else if (comparison == 3) {
    bool line = abs(at.x - middle) < 1.0;
    colour = vec4(line ? vec3(1.0) : right ? pick(mine, at) : pick(theirs, at), 1.0);
  } else {
    colour = vec4(pick(mine, at), 1.0);
  }
}`;

const CHANNEL_NUMBER: Record<Channel, number> = { rgb: 0, r: 1, g: 2, b: 3, a: 1, over: 4 };
const COMPARISON_NUMBER: Record<Comparison, number> = {
  none: 0,
  before: 1,
  wipe: 1,
  difference: 2,
  beside: 3,
};

function compile(gl: WebGL2RenderingContext, kind: number, source: string): WebGLShader {
  const shader = gl.createShader(kind)!;
  gl.shaderSource(shader, source);
  gl.compileShader(shader);
  if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS))
    throw new Error(gl.getShaderInfoLog(shader) ?? "shader");
  return shader;
}

/** Layers of the array of tiles: what a large screen shows of two pictures. */
export const LAYERS = 192;

export class Renderer {
  private readonly gl: WebGL2RenderingContext;
  private readonly program: WebGLProgram;
  private readonly textures: [WebGLTexture, WebGLTexture];
  private readonly places = new Map<string, WebGLUniformLocation | null>();
  private readonly cells: WebGLTexture;
  private tiles: WebGLTexture | null = null;
  private size: [number, number] = [1, 1];
  private filtered = "";

  /** Throws when the browser has no WebGL 2. */
  constructor(private readonly canvas: HTMLCanvasElement) {
    const gl = canvas.getContext("webgl2", { alpha: true, antialias: false, preserveDrawingBuffer: true });
    if (!gl) throw new Error("This browser shows no WebGL 2, which the viewer needs.");
    this.gl = gl;
    this.program = gl.createProgram();
    gl.attachShader(this.program, compile(gl, gl.VERTEX_SHADER, VERTEX));
    gl.attachShader(this.program, compile(gl, gl.FRAGMENT_SHADER, FRAGMENT));
    gl.linkProgram(this.program);
    this.textures = [gl.createTexture(), gl.createTexture()];
    this.cells = gl.createTexture();
    gl.bindVertexArray(gl.createVertexArray());
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  }

  /** Put a picture into place 0 (shown) or 1 (compared with). ``size`` in texels of the map, which may be larger. */
  load(place: 0 | 1, picture: ImageBitmap, size?: [number, number]): void {
    const gl = this.gl;
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.textures[place]);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, picture);
    gl.generateMipmap(gl.TEXTURE_2D);
    this.filtered = "";
    if (size) this.size = size;
  }

  /** Put a tile into its layer. */
  loadTile(layer: number, picture: ImageBitmap): void {
    const gl = this.gl;
    gl.activeTexture(gl.TEXTURE2);
    if (!this.tiles) {
      this.tiles = gl.createTexture();
      gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.tiles);
      gl.texStorage3D(gl.TEXTURE_2D_ARRAY, 1, gl.RGBA8, TILE, TILE, LAYERS);
      for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T])
        gl.texParameteri(gl.TEXTURE_2D_ARRAY, side, gl.CLAMP_TO_EDGE);
      gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
    }
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.tiles);
    const { width, height } = picture;
    gl.texSubImage3D(
      gl.TEXTURE_2D_ARRAY,
      0,
      ...([0, 0, layer, width, height, 1] as const),
      gl.RGBA,
      gl.UNSIGNED_BYTE,
      picture,
    );
  }

  private place(name: string): WebGLUniformLocation | null {
    if (!this.places.has(name)) this.places.set(name, this.gl.getUniformLocation(this.program, name));
    return this.places.get(name) ?? null;
  }

  private useTiles({ tiles }: Frame): void {
    const { gl } = this;
    const shown = tiles && this.tiles ? tiles : null;
    gl.uniform1i(this.place("tiles"), 2);
    gl.uniform1i(this.place("cells"), 3);
    gl.uniform1f(this.place("span"), shown ? shown.grid.span : 0);
    if (!shown) return;
    gl.uniform1f(this.place("tileScale"), 1 / shown.grid.span);
    gl.activeTexture(gl.TEXTURE2);
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.tiles);
    gl.activeTexture(gl.TEXTURE3);
    gl.bindTexture(gl.TEXTURE_2D, this.cells);
    const { columns, rows } = shown.grid;
    gl.texImage2D(
      gl.TEXTURE_2D,
      0,
      gl.RG16UI,
      ...([columns, rows, 0] as const),
      gl.RG_INTEGER,
      gl.UNSIGNED_SHORT,
      shown.cells,
    );
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
  }

  draw(frame: Frame): void {
    const { gl, canvas } = this;
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.useProgram(this.program);
    this.textures.forEach((texture, index) => {
      gl.activeTexture(gl.TEXTURE0 + index);
      gl.bindTexture(gl.TEXTURE_2D, texture);
    });
    const { look } = frame;
    this.setFilter(frame.level > 0 ? "level" : frame.zoom < 1 ? "smooth" : "hard");
    this.useTiles(frame);
    const at = (name: string) => this.place(name);
    gl.uniform1i(at("picture"), 0);
    gl.uniform1i(at("other"), 1);
    gl.uniform2f(at("size"), ...this.size);
    gl.uniform2f(at("canvas"), canvas.width, canvas.height);
    gl.uniform2f(at("corner"), frame.left, frame.top);
    gl.uniform1f(at("zoom"), frame.zoom);
    gl.uniform1f(at("split"), frame.split);
    gl.uniform1f(at("repeatCount"), look.repeat);
    gl.uniform1f(at("shift"), look.half ? 0.5 : 0);
    gl.uniform1f(at("exposure"), 2 ** look.exposure);
    gl.uniform1f(at("gamma"), look.gamma);
    gl.uniform1f(at("level"), frame.level);
    gl.uniform1f(at("gain"), look.gain);
    gl.uniform1i(at("channel"), CHANNEL_NUMBER[look.channel]);
    gl.uniform1i(at("comparison"), COMPARISON_NUMBER[look.comparison]);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Averaged when smaller than life; hard texel edges when larger, since people come close to count them. */
  private setFilter(kind: "hard" | "smooth" | "level"): void {
    if (this.filtered === kind) return;
    this.filtered = kind;
    const { gl } = this;
    this.textures.forEach((texture, index) => {
      gl.activeTexture(gl.TEXTURE0 + index);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      const smaller = { hard: gl.NEAREST, smooth: gl.LINEAR_MIPMAP_LINEAR, level: gl.NEAREST_MIPMAP_NEAREST };
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, smaller[kind]);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    });
  }

  dispose(): void {
    this.gl.getExtension("WEBGL_lose_context")?.loseContext();
  }
}

async function bitmap(answer: Response): Promise<ImageBitmap> {
  return createImageBitmap(await answer.blob(), { colorSpaceConversion: "none", premultiplyAlpha: "none" });
}

export async function loadPicture(url: string, signal?: AbortSignal): Promise<ImageBitmap> {
  return bitmap(await fetched(url, signal));
}

/** A picture made smaller, and the size that the full map would have. */
export async function loadPreview(url: string): Promise<{ picture: ImageBitmap; whole: [number, number] }> {
  const answer = await fetched(url);
  const side = (name: string) => Number(answer.headers.get(`X-Texel-${name}`));
  return { picture: await bitmap(answer), whole: [side("Width"), side("Height")] };
}
