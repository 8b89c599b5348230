import { definePreset } from "@primeuix/themes";
import Aura from "@primeuix/themes/aura";
import { ref, watchEffect } from "vue";

/** Neutral greys (R = G = B) everywhere, and one accent, an ink green. */
const greys = {
  0: "#ffffff",
  50: "#f7f7f7",
  100: "#efefef",
  200: "#e0e0e0",
  300: "#cbcbcb",
  400: "#a6a6a6",
  500: "#7f7f7f",
  600: "#616161",
  700: "#484848",
  800: "#303030",
  900: "#202020",
  950: "#161616",
};

export const preset = definePreset(Aura, {
  primitive: { borderRadius: { none: "0", xs: "1px", sm: "2px", md: "3px", lg: "4px", xl: "4px" } },
  semantic: {
    primary: {
      50: "#eaf4f2",
      100: "#cfe6e2",
      200: "#a3cfc8",
      300: "#6fb3a9",
      400: "#3d9488",
      500: "#167a6e",
      600: "#0c6a60",
      700: "#0a574f",
      800: "#09463f",
      900: "#073832",
      950: "#04221f",
    },
    formField: { paddingX: "0.5rem", paddingY: "0.28rem" },
    colorScheme: { light: { surface: greys }, dark: { surface: greys } },
  },
  components: {
    // The preset's own grey on grey is too faint to read at 12 pixels.
    togglebutton: {
      colorScheme: {
        light: { root: { color: "{surface.700}", hoverColor: "{surface.900}" } },
        dark: { root: { color: "{surface.200}", hoverColor: "{surface.0}" } },
      },
    },
  },
});

export type Theme = "day" | "dim";
const KEPT = "fair-texel-theme";

export const theme = ref<Theme>(localStorage.getItem(KEPT) === "dim" ? "dim" : "day");
/** Brightness of the neutral surround of pictures, 0 to 255. */
export const surround = ref(Number(localStorage.getItem("fair-texel-surround") ?? 119));

export function applyTheme(): void {
  watchEffect(() => {
    document.documentElement.classList.toggle("dim", theme.value === "dim");
    localStorage.setItem(KEPT, theme.value);
  });
  watchEffect(() => {
    const grey = Math.max(0, Math.min(255, Math.round(surround.value)));
    document.documentElement.style.setProperty("--surround", `rgb(${grey} ${grey} ${grey})`);
    document.documentElement.style.setProperty("--on-surround", grey > 127 ? "#111" : "#eee");
    localStorage.setItem("fair-texel-surround", String(grey));
  });
}
