import js from "@eslint/js";
import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  reactHooks.configs.flat["recommended-latest"],
  {
    linterOptions: { reportUnusedDisableDirectives: "error" },
    rules: {
      "no-restricted-syntax": [
        "error",
        {
          selector:
            "JSXOpeningElement[name.name=/^(button|input|select|textarea|table|thead|tbody|tr|td|th)$/]",
          message: "The library has this control: take it, or a wrapper in components/ that says why not.",
        },
        {
          selector: "JSXOpeningElement[name.name!=/^(canvas|svg|g|col)$/] > JSXAttribute[name.name='style']",
          message: "Styled by the theme, by sx or by styled.",
        },
      ],
      "@typescript-eslint/no-explicit-any": "error",
      "@typescript-eslint/no-unused-vars": ["error", { ignoreRestSiblings: true }],
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-non-null-assertion": "error",
    },
  },
  { files: ["tests/**"], rules: { "no-restricted-syntax": "off" } },
);
