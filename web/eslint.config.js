import js from "@eslint/js";
import { createNodeResolver, importX } from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...ts.configs.strictTypeChecked,
  ...ts.configs.stylisticTypeChecked,
  hooks.configs.flat["recommended-latest"],
  {
    languageOptions: { parserOptions: { projectService: true } },
    plugins: { "import-x": importX },
    settings: {
      "import-x/resolver-next": [createNodeResolver({ extensions: [".ts", ".tsx"] })],
      "import-x/extensions": [".ts", ".tsx"],
      "import-x/parsers": { "@typescript-eslint/parser": [".ts", ".tsx"] },
    },
    rules: {
      // Numbers in templates are what a screen of figures is made of.
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      // A shorthand arrow that returns nothing reads better in event handlers.
      "@typescript-eslint/no-confusing-void-expression": ["error", { ignoreArrowShorthand: true }],
      // Two files that need each other are one file, or want a third.
      "import-x/no-cycle": "error",
    },
  },
  {
    // What runs beside the pages knows no window.
    files: ["src/sw.ts"],
    languageOptions: { parserOptions: { projectService: false, project: "./tsconfig.sw.json" } },
  },
  {
    // A function is read at one look; a test may tell a longer story.
    files: ["src/**/*.{ts,tsx}"],
    ignores: ["src/**/*.test.ts"],
    rules: { "max-lines-per-function": ["error", { max: 45 }] },
  },
);
