/** The ground as it is drawn: rules and paint become weights, and these mix the layers, as texel/ground does it. */

export const vertexShader = /* glsl */ `
varying vec2 patchUv;
varying vec3 worldPlace;
varying vec3 landNormal;
void main() {
  patchUv = uv;
  worldPlace = position;
  landNormal = normal;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

/** count: of layers. hexagons as texel/ground/tiles.py (Mikkelsen 2022), hashes as texel/ground/noise.py. */
export const fragmentShader = (count: number): string => /* glsl */ `
precision highp float;
precision highp int;
precision highp sampler2DArray;
#define LAYERS ${count}
uniform sampler2DArray rules;
uniform sampler2DArray paint;
uniform sampler2DArray colours;
uniform sampler2DArray others;
uniform vec4 means[LAYERS];
uniform vec4 laid[LAYERS];
uniform bool shown[LAYERS];
uniform vec3 tints[LAYERS];
uniform float metres;
uniform vec3 sun;
uniform int look;
uniform int misread;
uniform float painting;
uniform vec3 brush;
varying vec2 patchUv;
varying vec3 worldPlace;
varying vec3 landNormal;

uint hashed(uint v) {
  uint state = v * 747796405u + 2891336453u;
  uint word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
  return (word >> 22u) ^ word;
}
float lattice(ivec2 at, uint seed) {
  uint made = hashed(uint(at.x) + hashed(uint(at.y) + hashed(seed)));
  return float(made >> 8u) * 5.9604644775390625e-8;
}
vec2 turned(vec2 at, float degrees) {
  float angle = radians(degrees), c = cos(angle), s = sin(angle);
  return vec2(c * at.x - s * at.y, s * at.x + c * at.y);
}
struct Read { vec4 colour; vec4 other; };
Read readAt(int layer, vec2 at, vec2 dx, vec2 dy) {
  vec3 place = vec3(at, float(layer));
  return Read(textureGrad(colours, place, dx, dy), textureGrad(others, place, dx, dy));
}
Read mixed(int layer, Read a, Read b, Read c, vec3 w) {
  float size = length(w);
  vec4 colour = means[layer] + (w.x * (a.colour - means[layer]) + w.y * (b.colour - means[layer])
    + w.z * (c.colour - means[layer])) / size;
  vec4 sum = w.x * a.other + w.y * b.other + w.z * c.other;
  vec2 bumps = 0.5 + (sum.xy - 0.5 * (w.x + w.y + w.z)) / size;
  return Read(clamp(colour, 0.0, 1.0), vec4(bumps, sum.zw / (w.x + w.y + w.z)));
}
Read hexagons(int layer, vec2 at, vec2 dx, vec2 dy) {
  vec2 scaled = at * 3.4641016151377544;
  vec2 skewed = vec2(scaled.x - scaled.y * 0.5773502691896258, scaled.y * 1.1547005383792517);
  vec2 base = floor(skewed), f = skewed - base;
  float z = 1.0 - f.x - f.y, upper = z < 0.0 ? 1.0 : 0.0, way = 2.0 * upper - 1.0;
  vec3 w = vec3(-z * way, upper - f.y * way, upper - f.x * way);
  ivec2 corners[3] = ivec2[3](ivec2(base + upper), ivec2(base + vec2(upper, 1.0 - upper)),
    ivec2(base + vec2(1.0 - upper, upper)));
  Read some[3];
  for (int i = 0; i < 3; i++)
    some[i] = readAt(layer, at + vec2(lattice(corners[i], 1u), lattice(corners[i], 2u)), dx, dy);
  w = pow(max(w, vec3(0.0)), vec3(7.0));
  return mixed(layer, some[0], some[1], some[2], w / (w.x + w.y + w.z));
}
Read layerAt(int layer, vec2 dx, vec2 dy) {
  float times = metres / laid[layer].x, turn = laid[layer].y;
  vec2 at = turned(patchUv * times, turn);
  dx = turned(dx * times, turn); dy = turned(dy * times, turn);
  Read made;
  if (laid[layer].z > 1.5) made = hexagons(layer, at, dx, dy);
  else {
    made = readAt(layer, at, dx, dy);
    if (laid[layer].z > 0.5) {
      vec2 larger = turned(at / 4.236, 31.7) + vec2(0.37, 0.71);
      Read second = readAt(layer, larger, turned(dx / 4.236, 31.7), turned(dy / 4.236, 31.7));
      second.other.xy = 0.5 + turned(second.other.xy - 0.5, 31.7);
      made = mixed(layer, made, second, second, vec3(0.5, 0.5, 0.0));
    }
  }
  made.other.xy = 0.5 + turned(made.other.xy - 0.5, turn);
  return made;
}
void main() {
  vec2 dx = dFdx(patchUv), dy = dFdy(patchUv);
  float weights[LAYERS];
  float left = 1.0;
  for (int i = LAYERS - 1; i > 0; i--) {
    float rule = texture(rules, vec3(patchUv, float(i))).r;
    float painted = (texture(paint, vec3(patchUv, float(i))).r * 255.0 - 128.0) / 127.0;
    float covered = shown[i] ? clamp(rule + painting * painted, 0.0, 1.0) : 0.0;
    weights[i] = covered * left;
    left -= weights[i];
  }
  weights[0] = left;
  if (misread == 1)
    for (int i = 0; i < LAYERS; i++) weights[i] = pow(weights[i], 2.2);
  Read read[LAYERS];
  float edges = 0.0;
  for (int i = 0; i < LAYERS; i++) {
    if (weights[i] > 0.002) read[i] = layerAt(i, dx, dy);
    edges = max(edges, laid[i].w);
  }
  if (edges > 0.0) {
    float highest = -1.0;
    float raised[LAYERS];
    for (int i = 0; i < LAYERS; i++) {
      float share = min(weights[i] * 64.0, 1.0);
      raised[i] = weights[i] > 0.002
        ? share * (weights[i] + laid[i].w * (read[i].colour.a - 0.5)) - (1.0 - share) : -1.0;
      highest = max(highest, raised[i]);
    }
    float total = 0.0;
    for (int i = 0; i < LAYERS; i++) {
      float share = weights[i] > 0.002 ? min(weights[i] * 64.0, 1.0) : 0.0;
      weights[i] = max(raised[i] - highest + 1.0 - 0.8 * edges, 0.0) * share;
      total += weights[i];
    }
    for (int i = 0; i < LAYERS; i++) weights[i] /= total;
  }
  vec3 colour = vec3(0.0), tint = vec3(0.0);
  vec2 bumps = vec2(0.0);
  float rough = 0.0, open = 0.0;
  for (int i = 0; i < LAYERS; i++) {
    tint += weights[i] * tints[i];
    if (weights[i] <= 0.002) continue;
    colour += weights[i] * read[i].colour.rgb;
    bumps += weights[i] * (read[i].other.xy * 255.0 - 128.0) / 127.0;
    rough += weights[i] * read[i].other.z;
    open += weights[i] * read[i].other.w;
  }
  if (misread == 2) bumps.y = -bumps.y;
  vec3 land = normalize(landNormal);
  float rise = sqrt(max(1.0 - dot(bumps, bumps), 0.01));
  // x to the east, y up, z to the south; the normal's y points to the north.
  vec3 normal = normalize(vec3(land.x / land.y + bumps.x / rise, 1.0, land.z / land.y - bumps.y / rise));
  if (look == 2) colour = vec3(0.6);
  if (look == 1) { colour = tint; normal = land; rough = 1.0; open = 1.0; }
  if (look == 2) { normal = land; rough = 1.0; open = 1.0; }
  vec3 view = normalize(cameraPosition - worldPlace);
  vec3 middle = normalize(view + sun);
  float facing = max(dot(normal, sun), 0.0);
  // Specular of a dielectric with the distribution of glTF 2.0, appendix B (GGX).
  float a = max(rough * rough, 0.02), d = dot(normal, middle) * dot(normal, middle) * (a * a - 1.0) + 1.0;
  float shine = 0.04 * a * a / (3.14159 * d * d) * facing;
  vec3 lit = colour * open * (0.3 + 0.9 * facing) + min(shine, 4.0);
  if (brush.z > 0.0) {
    float away = abs(distance(patchUv * metres, brush.xy) - brush.z);
    float line = fwidth(distance(patchUv * metres, brush.xy));
    lit = mix(lit, vec3(1.0, 0.55, 0.1), 1.0 - smoothstep(line, 2.5 * line, away));
  }
  gl_FragColor = vec4(lit, 1.0);
  #include <tonemapping_fragment>
  #include <colorspace_fragment>
}`;
