import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["node_modules", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  a11y.flatConfigs.recommended,
  {
    files: ["public/*.js"],
    languageOptions: {
      globals: {
        document: false,
        fetch: false,
        localStorage: false,
        location: false,
        window: false,
      },
    },
  },
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    rules: {
      "jsx-a11y/label-has-associated-control": [
        "error",
        {
          controlComponents: [
            "AutoComplete",
            "Input",
            "Input.TextArea",
            "NumberField",
            "Select",
            "Switch",
            "TextArea",
          ],
          depth: 4,
        },
      ],
      // A field that a person opens takes the focus, like a dialog.
      "jsx-a11y/no-autofocus": "off",
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-non-null-assertion": "off",
    },
  },
);
