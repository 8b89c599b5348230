/**
 * Every design token in one place: colour, space, radius, type, elevation, size of what is pressed. base.css and the
 * components use them as CSS variables ("--space-2"); PrimeVue's theme is made of the same numbers.
 *
 * Greys are true neutrals (R = G = B), so that they do not tint what stands beside a picture.
 */
export const GREYS = {
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

/** The one accent: an ink green. */
export const ACCENT = {
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
};

const SHARED = {
  "space-1": "4px",
  "space-2": "8px",
  "space-3": "12px",
  "space-4": "16px",
  "space-5": "20px",
  "space-6": "24px",
  radius: "3px",
  "text-small": "0.846rem",
  "text-normal": "1rem",
  "text-large": "1.154rem",
  "text-title": "1.385rem",
  // WCAG 2.2, success criterion 2.5.8: what is pressed is at least 24 px a side.
  "target-size": "24px",
  "elevation-overlay": "0 2px 10px rgb(0 0 0 / 18%)",
  mono: '"Atkinson Hyperlegible Mono Variable", monospace',
};

export const LIGHT = {
  paper: "#f7f7f7",
  sheet: "#ffffff",
  line: "#d6d6d6",
  "line-strong": "#8c8c8c",
  ink: "#161616",
  "ink-soft": "#5a5a5a",
  accent: ACCENT[600],
  "accent-wash": ACCENT[50],
  "on-accent": "#ffffff",
  error: "#a3201a",
  warning: "#8a5a00",
  note: "#4a4a4a",
  // Greys that tell the parts of a bar apart; they mean nothing else.
  "shade-1": GREYS[700],
  "shade-2": GREYS[600],
  "shade-3": GREYS[500],
  "shade-4": GREYS[400],
  "shade-5": GREYS[300],
  "shade-6": GREYS[200],
};

export const DIM: typeof LIGHT = {
  paper: "#202020",
  sheet: "#2a2a2a",
  line: "#414141",
  "line-strong": "#7d7d7d",
  ink: "#ececec",
  "ink-soft": "#b0b0b0",
  accent: "#5fb8ab",
  "accent-wash": "#233230",
  "on-accent": "#161616",
  error: "#ff9a8f",
  warning: "#efbd63",
  note: "#c4c4c4",
  "shade-1": GREYS[300],
  "shade-2": GREYS[400],
  "shade-3": GREYS[500],
  "shade-4": GREYS[600],
  "shade-5": "#545454",
  "shade-6": "#3c3c3c",
};

const lines = (tokens: Record<string, string>): string =>
  Object.entries(tokens)
    .map(([name, value]) => `--${name}: ${value};`)
    .join("\n");

/** The tokens as CSS: the light theme, and the dim one below the class "dim". */
export const tokensAsCss = (): string =>
  `:root {\n${lines({ ...SHARED, ...LIGHT })}\n}\n.dim {\ncolor-scheme: dark;\n${lines(DIM)}\n}`;
