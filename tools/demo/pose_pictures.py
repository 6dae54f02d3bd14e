"""Takes the pictures of the demo's poses on Odile, from a running demo: `python -m tools.demo.pose_pictures http://127.0.0.1:PORT`.

Writes dynaface/assets/demo/poses.json: name -> data URL.
"""

import json
import sys
import urllib.request
from typing import Any

from playwright.sync_api import sync_playwright

from dynaface.assets import ASSETS
from dynaface.demo.poses import NEUTRAL, POSES
from tools.chromium import ARGUMENTS, PATH

SHOT, LAYER = "Pictures of poses", "pose"


def ask(base: str, path: str, body: Any = None) -> Any:
    """An answer of the API."""
    data = None if body is None else json.dumps(body).encode()
    headers = {"X-Dynaface": "1", "Content-Type": "application/json"}
    with urllib.request.urlopen(urllib.request.Request(f"{base}/api{path}", data=data, headers=headers)) as answer:
        return json.load(answer)


def begin(base: str, production: str) -> str:
    """A shot in which Odile stands alone and does nothing, with a layer that poses go into."""
    odile = next(c for c in ask(base, f"/productions/{production}/characters") if c["name"] == "Odile")
    shot = ask(base, f"/productions/{production}/shots", {"name": SHOT, "takes": []})
    role = {"character": odile["id"], "performer": "Mara Quill", "rank": 0.0}
    change = {"path": "roles/odile", "value": role}
    ask(base, f"/documents/{shot['id']}/edits", {"version": shot["version"], "label": "Odile", "changes": [change]})
    ask(base, f"/shots/{shot['id']}/layers", {"role": "odile", "name": LAYER, "does": "replace"})
    return str(shot["id"])


def main(base: str) -> None:
    """All pictures."""
    production = ask(base, "/productions")[0]["id"]
    shot = begin(base, production)
    poses = [p for p in ask(base, f"/productions/{production}/poses") if p["body"]["name"] in (NEUTRAL, *POSES)]
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path=PATH, args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{base}/{production}/layer/{shot}")
        page.wait_for_selector("[data-testid=stage-canvas][data-loaded=true]")
        page.get_by_role("tab", name="Poses").click()
        for pose in poses:
            name = pose["body"]["name"]
            page.get_by_label(f"Pose {name}", exact=True).press("Enter")
            # What was asked before is drawn by then, and so is this.
            page.wait_for_load_state("networkidle")
            page.wait_for_timeout(1000)
            page.get_by_label(f"Picture of {name} as it stands now").click(force=True)
            page.wait_for_load_state("networkidle")
        browser.close()
    made = {p["body"]["name"]: p["body"]["picture"] for p in ask(base, f"/productions/{production}/poses")}
    (ASSETS / "demo" / "poses.json").write_text(
        json.dumps({p["body"]["name"]: made[p["body"]["name"]] for p in poses}, indent=1) + "\n"
    )


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))
