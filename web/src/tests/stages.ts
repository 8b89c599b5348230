/** The renderer's two shaders as far as a sheet is put into them. */
const parts = (names: string[]) => names.map((one) => `#include <${one}>`).join("\n");

export const STAGES = {
  vertexShader: parts(["common", "begin_vertex"]),
  fragmentShader: parts([
    "common",
    "map_fragment",
    "roughnessmap_fragment",
    "metalnessmap_fragment",
    "normal_fragment_maps",
    "emissivemap_fragment",
    "clearcoat_normal_fragment_maps",
    "lights_physical_fragment",
    "lights_fragment_end",
    "transmission_fragment",
    "aomap_fragment",
    "dithering_fragment",
  ]),
};
