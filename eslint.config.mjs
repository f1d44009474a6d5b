// The project's own scripts: plain, strict, for browsers; what is vendored is left as it came.
import js from "@eslint/js";

const browser = Object.fromEntries(
  ["document", "window", "localStorage", "sessionStorage", "location", "navigator", "AudioContext", "Event", "CustomEvent", "CSS", "FormData", "URL", "URLSearchParams", "DOMPoint", "fetch", "setTimeout", "clearTimeout", "setInterval", "console"]
    .map((name) => [name, "readonly"]),
);

export default [
  { ignores: ["shop/static/vendor/**", "node_modules/**", ".venv/**", ".lash/**"] },
  js.configs.recommended,
  {
    files: ["shop/static/lash/*.js"],
    languageOptions: { ecmaVersion: 2022, sourceType: "script", globals: { ...browser, globalThis: "readonly" } },
    rules: {
      curly: ["error", "multi-line"],
      eqeqeq: "error",
      "no-var": "error",
      "prefer-const": "error",
      "no-shadow": "error",
      "no-eval": "error",
      "no-implied-eval": "error",
    },
  },
  {
    files: ["tests/scripts/*.mjs", "eslint.config.mjs"],
    languageOptions: { ecmaVersion: 2022, sourceType: "module", globals: { ...browser, globalThis: "writable", process: "readonly" } },
  },
];
