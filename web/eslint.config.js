import js from "@eslint/js";
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
    rules: {
      // Numbers in templates are what a screen of figures is made of.
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      // A shorthand arrow that returns nothing reads better in event handlers.
      "@typescript-eslint/no-confusing-void-expression": ["error", { ignoreArrowShorthand: true }],
    },
  },
);
