import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

// No desk imports another: what two of them share lives in a kit of its own.
const desks = ["gather", "solve", "tidy", "cast", "join"];

export default ts.config(
  js.configs.recommended,
  ...ts.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  { ignores: ["dist", "src/api/schema.ts"] },
  { rules: { "@typescript-eslint/no-non-null-assertion": "off", "react-hooks/set-state-in-effect": "off" } },
  ...desks.map((desk) => ({
    files: [`src/desks/${desk}/**`],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          patterns: desks
            .filter((other) => other !== desk)
            .map((other) => ({ group: [`**/desks/${other}/**`, `../${other}/**`] })),
        },
      ],
    },
  })),
);
