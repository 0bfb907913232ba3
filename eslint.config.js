import hooks from "eslint-plugin-react-hooks";
import jsdoc from "eslint-plugin-jsdoc";
import ts from "typescript-eslint";

export default ts.config(
  {
    ignores: [
      "build/",
      "node_modules/",
      ".react-router/",
      "kernels/src/",
      "kernels/generated/",
      "**/*.cjs",
    ],
  },
  ...ts.configs.recommended,
  {
    files: ["app/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    rules: { "react-hooks/rules-of-hooks": "error", "react-hooks/exhaustive-deps": "error" },
  },
  {
    rules: {
      "one-var": ["error", "never"],
      "no-nested-ternary": "error",
      // a longer file says at its top why it is one
      "max-lines": ["error", 400],
      "max-statements-per-line": ["error", { max: 1 }],
      "no-duplicate-imports": ["error", { allowSeparateTypeImports: true }],
      "@typescript-eslint/no-unused-vars": [
        "error",
        {
          argsIgnorePattern: "^_",
          destructuredArrayIgnorePattern: "^_",
          ignoreRestSiblings: true,
        },
      ],
      "no-restricted-globals": ["error", "alert", "confirm", "prompt"],
    },
  },
  {
    // patterns of test pictures
    files: ["**/*.test.ts", "tests/**/*.ts"],
    rules: { "no-nested-ternary": "off" },
  },
  {
    // what others call says what it does
    files: [
      "core/**/*.ts",
      "kernels/**/*.ts",
      "codecs/**/*.ts",
      "runtime/**/*.ts",
      "pipeline/**/*.ts",
      "simulate/**/*.ts",
    ],
    ignores: ["**/*.test.ts"],
    plugins: { jsdoc },
    rules: {
      "jsdoc/require-description": "error",
      "jsdoc/require-jsdoc": [
        "error",
        {
          publicOnly: true,
          require: {
            ArrowFunctionExpression: true,
            FunctionExpression: true,
            ClassDeclaration: true,
          },
        },
      ],
    },
  },
  {
    files: ["core/**/*.ts", "kernels/**/*.ts"],
    ignores: ["**/*.test.ts"],
    rules: {
      "no-restricted-properties": [
        "error",
        { object: "Math", property: "random", message: "use a seed" },
        { object: "Date", property: "now" },
        { object: "performance", property: "now" },
      ],
    },
  },
);
