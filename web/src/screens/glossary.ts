/** Words and what they mean; docs/glossary.md says the same. */
export const GLOSSARY: { title: string; words: [string, string][] }[] = [
  {
    title: "Words of this tool",
    words: [
      ["Intake", "A batch of files taken in together, before and after they are sorted."],
      ["Role", "What a map is for: base colour, normal, roughness and so on."],
      ["Texture set", "The maps of one surface. Also just “set”."],
      ["Source map", "A file as it came. It is never changed."],
      ["Step", "One repair or conversion of a map, stored as data and applied to a copy."],
      ["Habit", "How a folder names its files: which suffix means which role."],
      ["Finding", "Something that a check measured, with its threshold and, where possible, a remedy."],
      ["Waiver", "A stated reason to accept a finding."],
      ["Layout", "Which source goes into which channel of a packed map."],
      [
        "Target",
        "What one engine or platform wants: packing, green direction, names, formats, sizes, budget.",
      ],
      ["House rules", "A project's own targets, layouts, naming rules, formats, budget and licences."],
      ["Master", "A material written once, with parameters and slots for textures. It has versions."],
      ["Cast", "A material made from a master: its textures, and the parameters it changes."],
      ["Sheet", "The rows of a master: each input of the surface, computed from left to right."],
      ["Delivery", "A dated result for one target. It is never changed afterwards."],
      ["Misread", "A preview of what happens when the target reads a map wrongly."],
    ],
  },
  {
    title: "Words of the trade",
    words: [
      ["Green direction", "Whether green in a normal map points up (Y+) or down (Y-). Engines differ."],
      [
        "sRGB, linear",
        "How a file's numbers are meant: colours are usually sRGB, data such as roughness is linear.",
      ],
      ["Channel packing", "Several maps of one channel each in the channels of one file."],
      ["Mip level", "A smaller copy of a texture, used at a distance."],
      ["Texel density", "How many texels cover a metre of surface."],
      ["BC, ETC, ASTC", "Families of compressed formats that graphics cards read directly."],
    ],
  },
];
