import js from "@eslint/js";
import { createNodeResolver, importX } from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

// No desk imports another: what two of them share lives in a kit of its own.
const desks = ["gather", "solve", "tidy", "cast", "join"];

export default ts.config(
  js.configs.recommended,
  ...ts.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  { ignores: ["src/api/schema.ts"] },
  { rules: { "@typescript-eslint/no-non-null-assertion": "off", "react-hooks/set-state-in-effect": "off" } },
  {
    plugins: { "import-x": importX },
    settings: {
      "import-x/resolver-next": [createNodeResolver({ extensions: [".ts", ".tsx"] })],
      "import-x/parsers": { "@typescript-eslint/parser": [".ts", ".tsx"] },
    },
    rules: { "import-x/no-cycle": "error" },
  },
  // What is ground knows nothing of the rooms that stand on it; the kit of the deck draws what it is given.
  ...[
    {
      files: ["src/shared/**", "src/api/**"],
      not: ["app", "desks", "deck", "workspace", "keys", "snags", "handover", "returns"],
    },
    {
      files: ["src/timekit/**"],
      not: ["app", "desks", "deck", "workspace", "keys", "snags", "playback", "shared", "api"],
    },
    {
      files: ["src/{workspace,keys,snags,deck,viewer,markers,match,contacts,commands,playback,feed,receiver}/**"],
      not: ["app", "desks"],
    },
  ].map(({ files, not }) => ({
    files,
    ignores: ["**/*.test.ts"],
    rules: { "no-restricted-imports": ["error", { patterns: not.map((room) => ({ group: [`**/${room}/**`] })) }] },
  })),
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
