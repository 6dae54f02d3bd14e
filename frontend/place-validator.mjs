// Places the glTF validator beside the built page, so that an installed product runs it without this folder's packages.
import { cpSync, rmSync } from "node:fs";

const target = new URL("../dynaface/validator/", import.meta.url);
rmSync(target, { recursive: true, force: true });
cpSync(new URL("node_modules/gltf-validator/", import.meta.url), new URL("node_modules/gltf-validator/", target), {
  recursive: true,
});
cpSync(new URL("validate.mjs", import.meta.url), new URL("validate.mjs", target));
