import js from "@eslint/js";
import globals from "globals";

// A failure that nobody hears of: `.catch(() => null)` and its like.
const silent = [
  "CallExpression[callee.property.name='catch'] > ArrowFunctionExpression[body.type=/Literal|Identifier|ArrayExpression|ObjectExpression/]",
  "CallExpression[callee.property.name=/catch|then/] > ArrowFunctionExpression[body.body.length=0]",
].map((selector) => ({ selector, message: "a failure is told: `orElse` or `trying`" }));

export default [
  js.configs.recommended,
  {
    files: ["**/*.js"],
    languageOptions: { globals: globals.browser, ecmaVersion: 2024, sourceType: "module" },
    linterOptions: { reportUnusedDisableDirectives: "error" },
    rules: {
      "max-lines": ["error", 300],
      "max-lines-per-function": ["error", 60],
      complexity: ["error", 20],
      eqeqeq: ["error", "always", { null: "ignore" }],
      "no-unused-vars": ["error", { ignoreRestSiblings: true, argsIgnorePattern: "^_" }],
      "no-var": "error",
      "prefer-const": "error",
      "no-restricted-syntax": ["error", ...silent],
    },
  },
];
