/** A sheet's own GLSL inside the standard surface's shader: it says what the surface is, the renderer lights it. */
import type { Shader, SheetSlot } from "@/api/materials";

/** What can be shown by itself, in the order of the shader's numbers; the first is the lit surface. */
export const SHOWN = [
  "lit",
  "base_color",
  "metallic",
  "roughness",
  "normal",
  "occlusion",
  "emissive",
  "opacity",
  "height",
  "density",
] as const;
export type Shown = (typeof SHOWN)[number];

const FRAME = `
mat3 ftFrame(vec3 eye, vec3 n, vec2 uv) {
  vec3 q0 = dFdx(eye), q1 = dFdy(eye);
  vec2 s0 = dFdx(uv), s1 = dFdy(uv);
  vec3 a = cross(q1, n), b = cross(n, q0);
  vec3 t = a * s0.x + b * s1.x, u = a * s0.y + b * s1.y;
  float det = max(dot(t, t), dot(u, u));
  float scale = det == 0.0 ? 0.0 : inversesqrt(det);
  return mat3(t * scale, u * scale, n);
}
`;
/** Light that reaches through openings alone; the environment's reflections are shaded by the same openness. */
const OCCLUSION = `
float ambientOcclusion = mix(1.0, clamp(ft.occlusion, 0.0, 1.0), ft.occlusion_strength);
reflectedLight.indirectDiffuse *= ambientOcclusion;
#if defined(USE_ENVMAP) && defined(STANDARD)
  reflectedLight.indirectSpecular *= computeSpecularOcclusion(
    saturate(dot(geometryNormal, geometryViewDir)), ambientOcclusion, material.roughness);
#endif
`;

/** What a target may misread, in the order of the shader's numbers; the first is the right reading. */
export const MISREAD = [
  "",
  "data_as_srgb",
  "normal_as_srgb",
  "green_flipped",
  "channels_exchanged",
  "gloss_as_roughness",
  "colour_as_linear",
  "occlusion_missing",
] as const;
const at = (key: (typeof MISREAD)[number]) => `ftMisread == ${MISREAD.indexOf(key)}`;

/** The sRGB curve both ways, IEC 61966-2-1. */
const CURVES = `
uniform int ftMisread;
vec3 ftDecode(vec3 c) {
  return mix(c / 12.92, pow((max(c, 0.0) + 0.055) / 1.055, vec3(2.4)), vec3(greaterThan(c, vec3(0.04045))));
}
vec3 ftEncode(vec3 c) {
  return mix(c * 12.92, 1.055 * pow(max(c, 0.0), vec3(1.0 / 2.4)) - 0.055, vec3(greaterThan(c, vec3(0.0031308))));
}
`;

/** The sheet's code with every slot read wrongly where a misreading says so. */
function misreadable(code: string, slots: SheetSlot[]): string {
  return slots.reduce((made, slot) => {
    const read = new RegExp(`( {2}vec4 s_${slot.name} = texture\\(.*\\);)`);
    const value = `s_${slot.name}.rgb`;
    const wrongly = slot.is_normal
      ? `if (${at("normal_as_srgb")}) ${value} = ftDecode(${value});`
      : slot.colour_space === "srgb"
        ? `if (${at("colour_as_linear")}) ${value} = ftEncode(${value});`
        : `if (${at("data_as_srgb")}) ${value} = ftDecode(${value});` +
          (slot.layout ? ` if (${at("channels_exchanged")}) ${value} = s_${slot.name}.bgr;` : "");
    return made.replace(read, `$1 ${wrongly}`);
  }, code);
}
const MISREAD_SURFACE = `
if (${at("green_flipped")}) ft.normal.y = -ft.normal.y;
if (${at("gloss_as_roughness")}) ft.roughness = 1.0 - ft.roughness;
if (${at("occlusion_missing")}) ft.occlusion = 1.0;`;

/** Squares of a sixteenth of a map, so that an uneven density of texels is seen; every fourth line is marked. */
const CHEQUER = `
vec2 ftPlaced = vec2(0.0);
vec3 ftChequer(vec2 uv) {
  vec2 cell = floor(uv * 16.0);
  float light = mod(cell.x + cell.y, 2.0) < 0.5 ? 0.75 : 0.3;
  vec2 four = floor(uv * 4.0);
  return vec3(light) + (mod(four.x + four.y, 2.0) < 0.5 ? vec3(0.0) : vec3(-0.12, 0.0, 0.12));
}
`;
/** Where the surface is, for the sheet's struct FtPlace; distances in metres, the world with y up. */
const VARYINGS = `
varying vec2 vFtUv;
varying vec2 vFtUv1;
varying vec4 vFtVertex;
varying vec3 vFtObject;
varying vec3 vFtWorld;
varying vec3 vFtNormal;
uniform float ftTime;
uniform float ftRandom;
`;
/** The same in both stages; the tangent's frame is found from pixel to pixel, or guessed where there are none. */
const PLACE_PARTS = `
  FtPlace at;
  at.uv = vFtUv;
  at.uv1 = vFtUv1;
  at.vertex = vFtVertex;
  at.object_position = vFtObject;
  at.world_position = vFtWorld;
  at.world_normal = n;
  at.world_tangent = frame[0];
  at.world_bitangent = frame[1];
  at.view_direction = normalize(cameraPosition - vFtWorld);
  at.camera_distance = distance(cameraPosition, vFtWorld);
  at.object_random = ftRandom;
  at.time = ftTime;
  return at;
`;
const PLACE_OF_PIXEL = `
FtPlace ftHere() {
  vec3 n = normalize(vFtNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  mat3 frame = ftFrame(vFtWorld, n, vec2(vFtUv.x, 1.0 - vFtUv.y));
${PLACE_PARTS}}
`;
const PLACE_OF_VERTEX = `
FtPlace ftHere() {
  vec3 n = normalize(vFtNormal);
  vec3 aside = abs(n.y) < 0.99 ? vec3(0.0, 1.0, 0.0) : vec3(0.0, 0.0, 1.0);
  vec3 t = normalize(cross(aside, n));
  mat3 frame = mat3(t, cross(n, t), n);
${PLACE_PARTS}}
`;

/** The sheet's code, which tells besides where its first coordinates read. */
const placed = (code: string): string => code.replace(/( {2}vec2 (c_\w+) = .*;)/, "$1 ftPlaced = $2;");

/** The surface moved along its normal by its height; a height of 0.5 stays where it is. */
const LIFT = `if (ftDisplace > 0.5) {
  FtSurface ftLifted = ft_surface(ftHere());
  transformed += normalize(normal) * (ftLifted.height - 0.5) * ftLifted.height_scale;
}`;

/** The normal of the lifted surface, from how its height changes from pixel to pixel (Mikkelsen 2010). */
const LEANED = `if (ftDisplace > 0.5) {
  float ftHeight = (ft.height - 0.5) * ft.height_scale;
  vec3 along = dFdx(-vViewPosition), across = dFdy(-vViewPosition);
  vec3 r1 = cross(across, normal), r2 = cross(normal, along);
  float det = dot(along, r1);
  normal = normalize(abs(det) * normal - sign(det) * (dFdx(ftHeight) * r1 + dFdy(ftHeight) * r2));
  // A coat lies on the lifted surface as well.
  nonPerturbedNormal = normal;
}`;

/** What the fuller surface has besides. */
const FULLER = `
float ftSpecular = clamp(ft.specular, 0.0, 1.0);
material.ior = clamp(ft.ior, 1.0, 3.0);
material.specularF90 = mix(ftSpecular, 1.0, metalnessFactor);
material.specularColor =
  min(pow2((material.ior - 1.0) / (material.ior + 1.0)) * max(ft.specular_color, 0.0), vec3(1.0)) * ftSpecular;
material.specularColorBlended = mix(material.specularColor, diffuseColor.rgb, metalnessFactor);
#ifdef USE_CLEARCOAT
material.clearcoat = clamp(ft.coat, 0.0, 1.0);
material.clearcoatRoughness = min(max(ft.coat_roughness, 0.045) + geometryRoughness, 1.0);
#endif
#ifdef USE_SHEEN
material.sheenColor = max(ft.sheen, 0.0);
material.sheenRoughness = clamp(ft.sheen_roughness, 0.07, 1.0);
#endif
#ifdef USE_ANISOTROPY
float ftTurn = ft.anisotropy_rotation * 6.2831853;
vec2 ftDrawn = vec2(cos(ftTurn), sin(ftTurn));
mat3 ftAlong = ftFrame(-vViewPosition, nonPerturbedNormal, vec2(vFtUv.x, 1.0 - vFtUv.y));
material.anisotropy = clamp(ft.anisotropy, 0.0, 1.0);
material.alphaT = mix(pow2(material.roughness), 1.0, pow2(material.anisotropy));
material.anisotropyT = ftAlong[0] * ftDrawn.x + ftAlong[1] * ftDrawn.y;
material.anisotropyB = ftAlong[1] * ftDrawn.x - ftAlong[0] * ftDrawn.y;
#endif
`;
/** The coat's own normal, in place of the mesh's. */
const COAT_NORMAL = `
#ifdef USE_CLEARCOAT
clearcoatNormal =
  normalize(ftFrame(-vViewPosition, nonPerturbedNormal, vec2(vFtUv.x, 1.0 - vFtUv.y)) * ft.coat_normal);
#endif
`;
/** Light from behind that is scattered through, as glTF's KHR_materials_diffuse_transmission mixes it in. */
const THROUGH = `
float ftThrough = clamp(ft.subsurface, 0.0, 1.0) * (1.0 - metalnessFactor);
vec3 ftTint = max(ft.subsurface_color, 0.0) * RECIPROCAL_PI;
vec3 ftBehind = vec3(0.0);
#if NUM_DIR_LIGHTS > 0
ftBehind += max(dot(-normal, directionalLights[0].direction), 0.0) * directionalLights[0].color;
#endif
reflectedLight.directDiffuse = mix(reflectedLight.directDiffuse, ftBehind * ftTint, ftThrough);
#if defined(USE_ENVMAP) && defined(STANDARD)
reflectedLight.indirectDiffuse = mix(reflectedLight.indirectDiffuse, getIBLIrradiance(-normal) * ftTint, ftThrough);
#endif
`;
const TRANSMISSION = "material.transmission = transmission;";

function shownCode(): string {
  const grey = (name: string) => `vec3(ft.${name})`;
  const values: Record<Shown, string> = {
    lit: "vec3(0.0)",
    base_color: "sRGBTransferOETF(vec4(max(ft.base_color, 0.0), 1.0)).rgb",
    metallic: grey("metallic"),
    roughness: grey("roughness"),
    normal: "ft.normal * 0.5 + 0.5",
    occlusion: grey("occlusion"),
    emissive: "sRGBTransferOETF(vec4(max(ft.emissive, 0.0), 1.0)).rgb",
    opacity: grey("opacity"),
    height: grey("height"),
    density: "ftChequer(ftPlaced)",
  };
  const cases = SHOWN.map((name, index) =>
    index ? `if (ftShow == ${index}) gl_FragColor = vec4(${values[name]}, 1.0);` : "",
  );
  return cases.join("\n");
}

/** The renderer's two shaders with the sheet in them. Raises an error when the renderer's parts have other names.
 *
 * fuller: whether the sheet sets what the plain surface has no part for. through: the renderer's own part for light
 * that goes through, where the sheet lets it.
 */
export function withSheet(
  shader: Shader,
  slots: SheetSlot[],
  stages: { vertexShader: string; fragmentShader: string },
  { fuller = false, lifted = false, through = "" } = {},
): { vertexShader: string; fragmentShader: string } {
  let { vertexShader, fragmentShader } = stages;
  const put = (code: string, part: string, by: string): string => {
    const mark = `#include <${part}>`;
    if (!code.includes(mark)) throw new Error(`The renderer has no part ${part}.`);
    return code.replace(mark, by);
  };
  vertexShader = put(
    vertexShader,
    "common",
    `#include <common>\nattribute vec4 ftVertex;\nattribute vec2 ftUv1;${VARYINGS}${lifted ? `uniform float ftDisplace;\n${shader.code}${PLACE_OF_VERTEX}` : ""}`,
  );
  vertexShader = put(
    vertexShader,
    "begin_vertex",
    `#include <begin_vertex>
vFtUv = vec2(uv.x, 1.0 - uv.y);
vFtUv1 = vec2(ftUv1.x, 1.0 - ftUv1.y);
vFtVertex = ftVertex;
vFtObject = transformed;
vFtWorld = (modelMatrix * vec4(transformed, 1.0)).xyz;
vFtNormal = mat3(modelMatrix) * objectNormal;
${lifted ? LIFT : ""}`,
  );
  fragmentShader = put(
    fragmentShader,
    "common",
    `#include <common>${VARYINGS}uniform int ftShow;\nuniform float ftCut;\nuniform float ftAlpha;\nuniform float ftDisplace;\n${CURVES}${CHEQUER}${FRAME}${placed(misreadable(shader.code, slots))}${PLACE_OF_PIXEL}`,
  );
  fragmentShader = put(
    fragmentShader,
    "map_fragment",
    `FtSurface ft = ft_surface(ftHere());${MISREAD_SURFACE}
diffuseColor.rgb = max(ft.base_color, 0.0);
diffuseColor.a = mix(1.0, ft.opacity, ftAlpha);
if (ftCut > 0.5 && ft.opacity < ft.cut_off) discard;`,
  );
  fragmentShader = put(
    fragmentShader,
    "roughnessmap_fragment",
    "float roughnessFactor = clamp(ft.roughness, 0.0, 1.0);",
  );
  fragmentShader = put(
    fragmentShader,
    "metalnessmap_fragment",
    "float metalnessFactor = clamp(ft.metallic, 0.0, 1.0);",
  );
  fragmentShader = put(
    fragmentShader,
    "normal_fragment_maps",
    `${lifted ? LEANED : ""}
normal = normalize(ftFrame(-vViewPosition, normal, vec2(vFtUv.x, 1.0 - vFtUv.y)) * ft.normal);`,
  );
  fragmentShader = put(
    fragmentShader,
    "emissivemap_fragment",
    "totalEmissiveRadiance = max(ft.emissive, 0.0) * ft.emissive_strength;",
  );
  if (fuller) {
    fragmentShader = put(
      fragmentShader,
      "lights_physical_fragment",
      `#include <lights_physical_fragment>${FULLER}`,
    );
    fragmentShader = put(fragmentShader, "clearcoat_normal_fragment_maps", COAT_NORMAL);
    fragmentShader = put(fragmentShader, "lights_fragment_end", `#include <lights_fragment_end>${THROUGH}`);
    if (through) {
      if (!through.includes(TRANSMISSION)) throw new Error("The renderer has no part for transmission.");
      const own = through.replace(TRANSMISSION, "material.transmission = clamp(ft.transmission, 0.0, 1.0);");
      fragmentShader = put(fragmentShader, "transmission_fragment", own);
    }
  }
  fragmentShader = put(fragmentShader, "aomap_fragment", OCCLUSION);
  fragmentShader = put(fragmentShader, "dithering_fragment", shownCode());
  return { vertexShader, fragmentShader };
}
