"""The tree keeps its own rules."""

import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]


def tracked():
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()
    return [ROOT / f for f in listed if (ROOT / f).is_file()]


def test_the_api_description_is_current():
    made = subprocess.run(
        [sys.executable, "-m", "tools.openapi", "--check"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    assert made.returncode == 0, f"{made.stderr}; then (cd frontend && npm run types)"


def test_lock_files_name_no_host():
    for name in ("requirements.lock", "frontend/package-lock.json"):
        assert not re.search(r"https?://[^\"]*(registry|pypi|files\.)", (ROOT / name).read_text())


def test_committed_files_stay_under_4_mb():
    assert [f for f in tracked() if f.stat().st_size > 4_194_304] == []


def test_no_file_is_a_drawer_for_everything():
    assert [f.name for f in tracked() if f.stem in ("utils", "helpers", "manager")] == []


def test_documented_pictures_are_linked():
    readme = (ROOT / "README.md").read_text()
    assert [p.name for p in (ROOT / "docs/screenshots").glob("*.png") if p.name not in readme] == []
