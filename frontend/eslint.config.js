import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts", "src/recording/recorder.worklet.js"] },
  ...tseslint.configs.recommendedTypeChecked,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  {
    ...a11y.flatConfigs.strict,
    rules: {
      ...a11y.flatConfigs.strict.rules,
      // Recordings of an instrument: what there is to read of them is the report beside each.
      "jsx-a11y/media-has-caption": "off",
      // In a dialog, focus goes to its first field (WAI-ARIA's pattern for dialogs); there these are components and no elements.
      "jsx-a11y/no-autofocus": ["error", { ignoreNonDOM: true }],
    },
  },
  { plugins: { "react-hooks": hooks }, rules: { ...hooks.configs.recommended.rules } },
);
