"""The product as it is installed: a wheel of its own, away from this tree, with all that it needs to run."""

import os
import shutil
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]

# Run away from the tree, with nothing of it on the path.
PROGRAM = """
import sys
from pathlib import Path
import dynaface
assert Path(dynaface.__file__).is_relative_to(sys.argv[1]), dynaface.__file__
from dynaface.assets import ASSETS
from dynaface.formats.head_file import general_head, landmark_model, landmark_places
from dynaface.formats.gltf.validate import VALIDATOR
from dynaface.settings import from_environment
from dynaface.web.app import make_app
from dynaface.wiring import make_work, prepare
settings = from_environment()
assert general_head().points.shape[1] == 3 and landmark_model() and landmark_places()
assert (ASSETS / "characters/odile.glb").is_file() and VALIDATOR.is_file()
assert (VALIDATOR.parent / "node_modules/gltf-validator").is_dir()
prepare(settings)
page = make_app(make_work(settings), settings).test_client()
assert b"Dynaface" in page.get("/").data
assert page.get("/api/health").status_code == 200
print("works")
"""


@pytest.fixture(scope="module")
def installed(tmp_path_factory) -> Path:
    """A folder with the unpacked wheel."""
    made = tmp_path_factory.mktemp("wheel")
    tree = made / "tree"
    skip = shutil.ignore_patterns("__pycache__")
    shutil.copytree(ROOT / "dynaface", tree / "dynaface", ignore=skip)
    for file in ("pyproject.toml", "README.md", "LICENSE", "NOTICE"):
        shutil.copy(ROOT / file, tree)
    pip = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation", "--no-index"]
    subprocess.run([*pip, "--wheel-dir", str(made), str(tree)], check=True, capture_output=True)
    (wheel,) = made.glob("*.whl")
    with zipfile.ZipFile(wheel) as archive:
        archive.extractall(made / "site")
    return made / "site"


def run(installed: Path, *command: str) -> subprocess.CompletedProcess[str]:
    """A Python command that sees the unpacked wheel and none of this tree."""
    environment = {**os.environ, "PYTHONPATH": str(installed)}
    return subprocess.run(
        [sys.executable, *command], cwd=installed.parent, env=environment, capture_output=True, text=True, check=False
    )


def test_it_serves_its_page_and_finds_its_models(installed, settings):
    made = run(installed, "-c", PROGRAM, str(installed))
    assert made.stdout.strip().endswith("works"), made.stderr


def test_it_is_a_command_line_too(installed):
    character = installed / "dynaface/assets/characters/kettle.glb"
    made = run(installed, "-m", "dynaface", "check", str(character))
    assert made.returncode == 0, made.stderr
    assert made.stdout.startswith("kettle.glb: ")
