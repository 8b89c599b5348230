/** Attributes of PrimeVue's markup that say what is not so, or nothing, to those who hear the page; null takes one out. */
export const passThrough = {
  // Its heading is in a slot of ours, so that the name that it points to is not there.
  panel: { contentContainer: { role: null, "aria-labelledby": null } },
  chip: { root: { "aria-label": null } },
  // Without the meter of strength nothing opens.
  password: { pcInputText: { root: { "aria-expanded": null, "aria-haspopup": null } } },
  tree: {
    // The name of a row is what stands in it.
    node: { "aria-label": null },
    nodeToggleButton: { "aria-hidden": "true" },
  },
  splitter: {
    // Without a value until it is moved the first time; the panels know theirs.
    gutterHandle: ({ instance }: { instance: { panelSizes?: number[] } }) => ({
      "aria-valuenow": Math.round(instance.panelSizes?.[0] ?? 50),
    }),
  },
};
