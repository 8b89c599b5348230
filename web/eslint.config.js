import i18n from "@intlify/eslint-plugin-vue-i18n";
import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import typescript from "typescript-eslint";
import vueParser from "vue-eslint-parser";

/** Controls are PrimeVue's, so that all look and behave alike; an exception says its reason beside it. */
const message =
  "Use a part of parts/fields or a PrimeVue component; say why where only a native control will do.";
const CONTROLS = ["button", "select", "input", "textarea", "dialog", "details", "progress", "meter"];

/** Such an array is another one at every look: what is watched seems changed whenever its data are read again. */
const NEW_ARRAY =
  "CallExpression[callee.name='watch'] > ArrowFunctionExpression:first-child > ArrayExpression";

const READ_ATTRIBUTES = ["label", "title", "aria-label", "placeholder", "header", "alt", "suffix", "help"];

export default [
  { ignores: ["dist/", "src/api/generated/", "*.config.*"] },
  ...typescript.configs.recommendedTypeChecked,
  ...vue.configs["flat/recommended"],
  {
    files: ["**/*.vue"],
    languageOptions: { parser: vueParser, parserOptions: { parser: typescript.parser } },
    // A component's type parameters (generic="V") are no types that the linter knows.
    rules: {
      "@typescript-eslint/no-redundant-type-constituents": "off",
      "@typescript-eslint/no-unnecessary-type-assertion": "off",
    },
  },
  {
    languageOptions: {
      parserOptions: {
        project: "./tsconfig.json",
        tsconfigRootDir: import.meta.dirname,
        extraFileExtensions: [".vue"],
      },
    },
    rules: {
      "vue/multi-word-component-names": "off",
      "vue/no-restricted-html-elements": ["error", ...CONTROLS.map((element) => ({ element, message }))],
      "no-undef": "off",
      "no-restricted-syntax": ["error", { selector: NEW_ARRAY, message: "Give watch an array of getters." }],
      "max-lines": ["error", { max: 250 }],
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
    },
  },
  // What people read stands in src/texts, where wording is reviewed.
  {
    files: ["**/*.vue"],
    plugins: { "@intlify/vue-i18n": i18n },
    rules: {
      "@intlify/vue-i18n/no-raw-text": [
        "error",
        { ignorePattern: "^[^A-Za-z]*$|^(px|sRGB)$", attributes: { "/.+/": READ_ATTRIBUTES } },
      ],
    },
  },
  // Functions of tests stand in for ones that wait; files of tests are lists of short ones.
  {
    files: ["**/*.ts"],
    rules: { "max-lines": ["error", { max: 300, skipBlankLines: true, skipComments: true }] },
  },
  { files: ["**/*.test.ts"], rules: { "@typescript-eslint/require-await": "off" } },
  prettier,
];
