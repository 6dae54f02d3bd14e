"""Parts of the running application are killed at random while people edit and ask for jobs: nothing that was answered is lost,
no job is done twice or stays for ever, and all of it comes back by itself.
"""

import os
import random
import signal
import threading
import time

from dynaface.assets import ASSETS
from dynaface.formats.entries.curve_table import write_table
from tests.makers import channels
from trials.running import PARTS, Running, running
from trials.tally import Tally, finish, options

PAUSE = (0.5, 4.0)  # seconds between two kills
MAX_DOWN = 15.0
SETTLE = 3.0  # seconds of quiet work after the last kill
SETTLED = 180.0  # seconds within which all jobs must be over after the last kill


class People:
    """Two who edit, and one who asks for handovers; what was answered is kept."""

    def __init__(self, app: Running) -> None:
        self.app, self.stop = app, threading.Event()
        self.kept: dict[str, int] = {}
        self.jobs: list[str] = []
        self.down, self.after = 0.0, ""
        self.killed: list[str] = []
        production = app.surely("POST", "/productions", {"name": "Trial"})["id"]
        self.production: str = production
        table = app.surely("POST", f"/productions/{production}/uploads", raw=write_table(channels()))["media"]
        rig = app.surely(
            "POST", f"/productions/{production}/uploads", raw=(ASSETS / "characters/kettle.glb").read_bytes()
        )["media"]
        character = app.surely("POST", f"/productions/{production}/characters",
                               {"name": "Kettle", "file": {"media": rig, "name": "kettle.glb"}})["id"]  # fmt: skip
        self.takes = []
        for n in range(2):
            made = app.surely("POST", f"/productions/{production}/takes",
                              {"slate": f"{n}", "performer": "Mara Quill", "files": [{"media": table, "name": "a.csv"}]})  # fmt: skip
            self.takes.append(made["id"])
            app.surely("POST", f"/takes/{made['id']}/swap", {"character": character})
        self._threads = [threading.Thread(target=self._edit, args=(t,), daemon=True) for t in self.takes]
        self._threads += [threading.Thread(target=f, daemon=True) for f in (self._ask_for_jobs, self._watch)]

    def begin(self) -> None:
        """They set to work."""
        for thread in self._threads:
            thread.start()

    def end(self) -> None:
        """They stop."""
        self.stop.set()
        for thread in self._threads:
            thread.join(90)

    def _edit(self, take: str) -> None:
        number = 0
        while not self.stop.is_set():
            status, opened = self.app.ask("GET", f"/takes/{take}")
            if status != 200:
                time.sleep(0.05)
                continue
            number += 1
            edit = {"version": opened["take"]["version"], "label": f"edit {number}",
                    "changes": [{"path": "notes", "value": str(number)}]}  # fmt: skip
            if self.app.ask("POST", f"/documents/{take}/edits", edit)[0] == 200:
                self.kept[take] = number
            time.sleep(0.02)

    def _ask_for_jobs(self) -> None:
        while not self.stop.is_set():
            status, job = self.app.ask("POST", f"/takes/{self.takes[0]}/handovers", {})
            if status == 200:
                self.jobs.append(job["id"])
            self.stop.wait(1.0)

    def _watch(self) -> None:
        well = time.monotonic()
        while not self.stop.is_set():
            if self.app.ask("GET", "/health", seconds=2)[0] == 200:
                away = time.monotonic() - well
                if away > self.down:
                    self.down, self.after = away, " and ".join(self.killed[-2:])
                well = time.monotonic()
            time.sleep(0.05)


def _kill(app: Running, rng: random.Random) -> str:
    kind = rng.choice(sorted(PARTS))
    numbers = app.parts(kind)
    if numbers:
        try:
            os.kill(rng.choice(numbers), signal.SIGKILL)
        except ProcessLookupError:
            return "was gone already"
    return f"{kind} killed" if numbers else f"{kind} was down"


def _until_well(app: Running) -> None:
    """Waits until it answers again, so that what is away is always away for one kill."""
    time.sleep(0.2)
    until = time.monotonic() + 4 * MAX_DOWN
    while app.ask("GET", "/health", seconds=2)[0] != 200 and time.monotonic() < until:
        time.sleep(0.1)


def _settled(app: Running) -> dict[str, str]:
    """job -> state, once all are over or the time is up."""
    until = time.monotonic() + SETTLED
    while True:
        rows = app.rows("SELECT id, state, message FROM jobs")
        states = {str(job): f"{state} ({message})" if state == "failed" else state for job, state, message in rows}
        if time.monotonic() > until or not {"queued", "running"} & set(states.values()):
            return states
        time.sleep(0.5)


def _look(app: Running, people: People, tally: Tally) -> None:
    for take, number in people.kept.items():
        stored = int(app.surely("GET", f"/takes/{take}")["take"]["body"]["notes"])
        tally.outcomes["edits answered"] += number
        if stored < number:
            tally.fault(f"edit {number} was answered, {stored} is stored")
    states = _settled(app)
    for job in people.jobs:
        tally.count(f"job answered, {states.get(job, 'gone')}")
        if states.get(job) != "done":
            tally.fault(f"a job that was answered is {states.get(job, 'gone')}")
    for state in (s for j, s in states.items() if j not in people.jobs):
        tally.count(f"job whose answer was lost, {state}")
        if state in ("queued", "running"):
            tally.fault(f"a job is {state} for ever")
    done = sum(state == "done" for state in states.values())
    ((handed,),) = app.rows("SELECT count(*) FROM handovers")
    tally.outcomes["handovers"] = handed
    if handed != done:
        tally.fault(f"{handed} handovers of {done} jobs that are done")


def run(kills: int, seed: int) -> Tally:
    """Kills that many parts, one after the other, then looks at what is there."""
    rng, tally = random.Random(seed), Tally()
    with running() as app:
        people = People(app)
        people.begin()
        for _ in range(kills):
            time.sleep(rng.uniform(*PAUSE))
            what = _kill(app, rng)
            people.killed.append(what)
            tally.count(what)
            _until_well(app)
        time.sleep(SETTLE)
        people.end()
        _look(app, people, tally)
        if people.down > MAX_DOWN:
            tally.fault(f"it was away for {people.down:.1f} s")
        print(f"longest away: {people.down:.1f} s, after: {people.after}")
    return tally


if __name__ == "__main__":
    asked = options(__doc__ or "", 200)
    finish(run(asked.count, asked.seed))
