/** Draws one picture, or two compared, with WebGL 2: one channel or all, wiped or as an amplified difference. */

export type Channel = "rgb" | "r" | "g" | "b" | "a";
export type Comparison = "none" | "wipe" | "difference";

export interface Frame {
  /** Canvas pixels a texel. */
  zoom: number;
  /** Canvas pixel of the picture's top left corner. */
  left: number;
  top: number;
  channel: Channel;
  comparison: Comparison;
  /** Where the wipe stands, 0 to 1 of the canvas. */
  split: number;
  repeat: number;
}

const VERTEX = `#version 300 es
void main() {
  vec2 corner = vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0;
  gl_Position = vec4(corner, 0.0, 1.0);
}`;

const FRAGMENT = `#version 300 es
precision highp float;
uniform sampler2D picture, other;
uniform vec2 size, canvas, corner;
uniform float zoom, split, repeatCount;
uniform int channel, comparison;
out vec4 colour;
vec3 pick(vec3 c) {
  return channel == 0 ? c : channel == 1 ? c.rrr : channel == 2 ? c.ggg : c.bbb;
}
void main() {
  vec2 at = vec2(gl_FragCoord.x, canvas.y - gl_FragCoord.y);
  vec2 uv = (at - corner) / (size * zoom);
  vec2 inner = fract(uv);
  bool outside = any(lessThan(uv, vec2(0.0))) || any(greaterThanEqual(uv, vec2(repeatCount)));
  // Both are read before anything is thrown away: derivatives are undefined after a branch.
  vec3 mine = pick(textureGrad(picture, inner, dFdx(uv), dFdy(uv)).rgb);
  vec3 theirs = pick(textureGrad(other, inner, dFdx(uv), dFdy(uv)).rgb);
  if (outside) discard;
  if (comparison == 1) {
    float line = abs(at.x - split * canvas.x);
    colour = vec4(line < 1.0 ? vec3(1.0) : at.x < split * canvas.x ? theirs : mine, 1.0);
  } else if (comparison == 2) {
    colour = vec4(abs(mine - theirs) * 8.0, 1.0);
  } else {
    colour = vec4(mine, 1.0);
  }
}`;

const CHANNEL_NUMBER: Record<Channel, number> = { rgb: 0, r: 1, g: 2, b: 3, a: 1 };
const COMPARISON_NUMBER: Record<Comparison, number> = { none: 0, wipe: 1, difference: 2 };

function compile(gl: WebGL2RenderingContext, kind: number, source: string): WebGLShader {
  const shader = gl.createShader(kind)!;
  gl.shaderSource(shader, source);
  gl.compileShader(shader);
  if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS))
    throw new Error(gl.getShaderInfoLog(shader) ?? "shader");
  return shader;
}

export class Renderer {
  private readonly gl: WebGL2RenderingContext;
  private readonly program: WebGLProgram;
  private readonly textures: [WebGLTexture, WebGLTexture];
  private size: [number, number] = [1, 1];
  private filtered: boolean | null = null;

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
    gl.bindVertexArray(gl.createVertexArray());
  }

  get largest(): number {
    return this.gl.getParameter(this.gl.MAX_TEXTURE_SIZE) as number;
  }

  /** Put a picture into place 0 (shown) or 1 (compared with). ``size`` in texels of the map, which may be larger. */
  load(place: 0 | 1, picture: ImageBitmap, size?: [number, number]): void {
    const gl = this.gl;
    gl.bindTexture(gl.TEXTURE_2D, this.textures[place]);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, picture);
    gl.generateMipmap(gl.TEXTURE_2D);
    this.filtered = null;
    if (size) this.size = size;
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
    this.setFilter(frame.zoom < 1);
    const at = (name: string) => gl.getUniformLocation(this.program, name);
    gl.uniform1i(at("picture"), 0);
    gl.uniform1i(at("other"), 1);
    gl.uniform2f(at("size"), ...this.size);
    gl.uniform2f(at("canvas"), canvas.width, canvas.height);
    gl.uniform2f(at("corner"), frame.left, frame.top);
    gl.uniform1f(at("zoom"), frame.zoom);
    gl.uniform1f(at("split"), frame.split);
    gl.uniform1f(at("repeatCount"), frame.repeat);
    gl.uniform1i(at("channel"), CHANNEL_NUMBER[frame.channel]);
    gl.uniform1i(at("comparison"), COMPARISON_NUMBER[frame.comparison]);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Averaged when smaller than life; hard texel edges when larger, since people come close to count them. */
  private setFilter(smooth: boolean): void {
    if (this.filtered === smooth) return;
    this.filtered = smooth;
    const { gl } = this;
    this.textures.forEach((texture, index) => {
      gl.activeTexture(gl.TEXTURE0 + index);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, smooth ? gl.LINEAR_MIPMAP_LINEAR : gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    });
  }

  dispose(): void {
    this.gl.getExtension("WEBGL_lose_context")?.loseContext();
  }
}

export async function loadPicture(url: string, signal?: AbortSignal): Promise<ImageBitmap> {
  const answer = await fetch(url, { signal });
  if (!answer.ok)
    throw new Error(((await answer.json().catch(() => null)) as { detail?: string })?.detail ?? url);
  return createImageBitmap(await answer.blob(), { colorSpaceConversion: "none", premultiplyAlpha: "none" });
}
