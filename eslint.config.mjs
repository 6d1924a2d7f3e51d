// What the pages' scripts are held to; read by ./run lint alone.
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    files: ["src/gaitwire/web/static/js/**/*.js"],
    languageOptions: { ecmaVersion: 2025, sourceType: "module", globals: { ...globals.browser, ...globals.worker } },
    linterOptions: { reportUnusedDisableDirectives: "error" },
    rules: {
      "array-callback-return": "error",
      eqeqeq: "error",
      "no-implicit-globals": "error",
      "no-shadow": "error",
      "no-unused-vars": ["error", { argsIgnorePattern: "^_", caughtErrors: "none" }],
      "no-use-before-define": ["error", { functions: false, classes: false, variables: false }],
      "no-var": "error",
      "object-shorthand": "error",
      "prefer-const": "error",
      "prefer-template": "error",
      "no-throw-literal": "error",
      "no-useless-return": "error",
    },
  },
];
