"""What a trial found, and the command line that all trials share."""

import argparse
from collections import Counter
from dataclasses import dataclass, field


@dataclass
class Tally:
    """Outcomes by name, and the faults: what must not happen, each said once."""

    outcomes: Counter[str] = field(default_factory=Counter)
    faults: dict[str, int] = field(default_factory=dict)

    def count(self, outcome: str) -> None:
        """One more of an outcome."""
        self.outcomes[outcome] += 1

    def fault(self, what: str) -> None:
        """Something that must not happen."""
        self.faults[what] = self.faults.get(what, 0) + 1

    def __str__(self) -> str:
        """A line an outcome, then the faults."""
        lines = [f"{n:7d}  {outcome}" for outcome, n in self.outcomes.most_common()]
        lines += [f"  FAULT {n:5d} x  {what}" for what, n in sorted(self.faults.items(), key=lambda f: -f[1])]
        return "\n".join([*lines, f"{sum(self.faults.values())} faults in {self.outcomes.total()}"])


def options(about: str, count: int) -> argparse.Namespace:
    """--count and --seed."""
    parser = argparse.ArgumentParser(description=about)
    parser.add_argument("--count", type=int, default=count)
    parser.add_argument("--seed", type=int, default=1)
    return parser.parse_args()


def finish(tally: Tally) -> None:
    """Prints it; the command fails where there was a fault."""
    print(tally)
    raise SystemExit(bool(tally.faults))
