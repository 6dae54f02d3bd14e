"""The validator of glTF's makers, run on a file."""

import json
import subprocess
import tempfile
from pathlib import Path

from dynaface.formats.handover import Check

VALIDATOR = Path(__file__).parents[2] / "validator" / "validate.mjs"  # placed there by the front end's build
WHAT = "glTF validator"


def validated(data: bytes, node: str) -> Check:
    """What it says of a glTF binary; node: the program that runs it."""
    if not node:
        return Check(WHAT, None, "not run: no Node.js is set up")
    with tempfile.NamedTemporaryFile(suffix=".glb") as file:
        file.write(data)
        file.flush()
        made = subprocess.run([node, str(VALIDATOR), file.name], capture_output=True, timeout=120, check=False)
    if made.returncode:
        return Check(WHAT, None, "did not run: " + made.stderr.decode(errors="replace")[-200:])
    issues = json.loads(made.stdout)
    found = f"{issues['numErrors']} errors, {issues['numWarnings']} warnings"
    first = next((m["message"] for m in issues["messages"] if m["severity"] < 2), "")
    return Check(WHAT, issues["numErrors"] == 0, f"{found}{': ' + first if first else ''}")
