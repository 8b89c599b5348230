import { definePreset } from "@primeuix/themes";
import { ref, watchEffect } from "vue";

import aura from "./aura";
import { ACCENT, DIM, GREYS, LIGHT, tokensAsCss } from "./tokens";

const control = { paddingX: "0.55rem", paddingY: "0.27rem" };
const quietButton = {
  color: "{surface.700}",
  hoverBackground: "{surface.100}",
  activeBackground: "{surface.200}",
};
const quietDimButton = {
  color: "{surface.200}",
  hoverBackground: "{surface.800}",
  activeBackground: "{surface.700}",
};

/** PrimeVue's theme. Density is set here, once: no component asks for a size of its own. */
export const preset = definePreset(aura, {
  primitive: { borderRadius: { none: "0", xs: "1px", sm: "2px", md: "3px", lg: "4px", xl: "4px" } },
  semantic: {
    primary: ACCENT,
    formField: { ...control, borderRadius: "{border.radius.md}" },
    list: { option: { padding: "0.3rem 0.6rem" }, optionGroup: { padding: "0.3rem 0.6rem" } },
    overlay: { modal: { padding: "1rem" }, popover: { padding: "0.75rem" } },
    focusRing: { width: "2px", style: "solid", color: "{primary.color}", offset: "1px" },
    colorScheme: {
      light: { surface: GREYS },
      dark: {
        surface: GREYS,
        primary: {
          color: DIM.accent,
          contrastColor: DIM["on-accent"],
          hoverColor: "{primary.200}",
          activeColor: "{primary.100}",
        },
      },
    },
  },
  components: {
    button: {
      root: { paddingX: "0.65rem", paddingY: "0.27rem", iconOnlyWidth: "1.85rem", gap: "0.4rem" },
      colorScheme: {
        light: {
          text: { secondary: quietButton, danger: { color: LIGHT.error } },
          outlined: { secondary: quietButton },
        },
        dark: {
          text: { secondary: quietDimButton, danger: { color: DIM.error } },
          outlined: { secondary: quietDimButton },
        },
      },
    },
    // The preset's own grey on grey is too faint to read at 12 pixels.
    togglebutton: {
      root: { padding: "0.12rem", gap: "0.3rem" },
      content: { padding: "0.12rem 0.5rem" },
      colorScheme: {
        light: { root: { color: "{surface.700}", hoverColor: "{surface.900}" } },
        dark: { root: { color: "{surface.200}", hoverColor: "{surface.0}" } },
      },
    },
    message: {
      colorScheme: {
        light: { warn: { color: LIGHT.warning }, error: { color: LIGHT.error } },
        dark: { warn: { color: DIM.warning }, error: { color: DIM.error } },
      },
    },
    slider: {
      handle: {
        width: "24px",
        height: "24px",
        background: "transparent",
        hoverBackground: "transparent",
        content: { width: "14px", height: "14px", shadow: "none" },
      },
      colorScheme: {
        light: { handle: { content: { background: "{primary.color}" } } },
        dark: { handle: { content: { background: "{primary.color}" } } },
      },
    },
    tree: { nodeToggleButton: { size: "24px" } },
    tabs: { tab: { color: "{text.color}", padding: "0.4rem 0.75rem" }, tabpanel: { padding: "0.75rem 0 0" } },
    panel: { header: { padding: "0.4rem 0.75rem" }, content: { padding: "0 0.75rem 0.75rem" } },
    accordion: {
      header: { color: "{text.color}", padding: "0.4rem 0.75rem" },
      content: { padding: "0 0.75rem 0.75rem" },
    },
    datatable: {
      headerCell: { padding: "0.3rem 0.6rem" },
      bodyCell: { padding: "0.25rem 0.6rem" },
    },
    chip: { root: { paddingX: "0.5rem", paddingY: "0.15rem", borderRadius: "{border.radius.md}" } },
    tag: { root: { padding: "0.1rem 0.4rem", fontSize: "0.85rem", fontWeight: "600" } },
  },
});

export type Theme = "light" | "dim";
const KEPT = "fair-texel-theme";

export const theme = ref<Theme>(localStorage.getItem(KEPT) === "dim" ? "dim" : "light");
/** Brightness of the neutral surround of pictures, 0 to 255. */
export const surround = ref(Number(localStorage.getItem("fair-texel-surround") ?? 119));

export function applyTheme(): void {
  const style = document.createElement("style");
  style.textContent = tokensAsCss();
  document.head.prepend(style);
  watchEffect(() => {
    document.documentElement.classList.toggle("dim", theme.value === "dim");
    localStorage.setItem(KEPT, theme.value);
  });
  watchEffect(() => {
    const grey = Math.max(0, Math.min(255, Math.round(surround.value)));
    document.documentElement.style.setProperty("--surround", `rgb(${grey} ${grey} ${grey})`);
    // Black and white are equally far from sRGB 118 (WCAG 2.2, contrast ratio): the better one is above 4.5 always.
    document.documentElement.style.setProperty("--on-surround", grey >= 118 ? "#000" : "#fff");
    localStorage.setItem("fair-texel-surround", String(grey));
  });
}
