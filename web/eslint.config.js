import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import typescript from "typescript-eslint";
import vueParser from "vue-eslint-parser";

export default [
  { ignores: ["dist/", "src/api/generated/"] },
  ...typescript.configs.recommended,
  ...vue.configs["flat/recommended"],
  {
    files: ["**/*.vue"],
    languageOptions: { parser: vueParser, parserOptions: { parser: typescript.parser } },
  },
  {
    rules: {
      "vue/multi-word-component-names": "off",
      "no-undef": "off",
      "max-lines": ["error", { max: 300, skipBlankLines: true, skipComments: true }],
    },
  },
  prettier,
];
