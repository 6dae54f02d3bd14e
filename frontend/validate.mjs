// Validates a glTF binary: `node validate.mjs FILE` prints the issues as JSON.
import { readFile } from "node:fs/promises";
import validator from "gltf-validator";

const report = await validator.validateBytes(new Uint8Array(await readFile(process.argv[2])), { maxIssues: 50 });
process.stdout.write(JSON.stringify(report.issues));
