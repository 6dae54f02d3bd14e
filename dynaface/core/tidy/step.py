"""What a tidy step is."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.parameters import Parameter

StepKind = Literal["retiming", "temporal", "pointwise", "key-making"]
"""retiming: a Recording in, Channels out; temporal: looks at neighbouring frames; pointwise: each frame on its own;
key-making: the curve becomes what its keys say."""

WHOLE = -1


@dataclass(frozen=True)
class Step:
    """One clean-up step, described once for the stack, the drawer and the documentation.

    apply: (Recording if retiming else Channels, complete checked parameters) -> Channels; it changes no input.
    within: (Channels, parameters, (frames, channels) bool of where it acts) -> Channels, in place of `apply` for a step
    that replaces what is in its place by what is beside it; it has no meaning everywhere.
    halo: (parameters, rate) -> frames to either side that a temporal step looks at; 0 for a pointwise step; WHOLE for
    one that needs the take from end to end.
    gaps: what happens to gaps (NaN): "kept" or "bridged" (short ones filled).
    regions: where it acts when an animator adds it; everywhere when empty.
    """

    name: str
    label: str
    kind: StepKind
    help: str
    parameters: Sequence[Parameter]
    apply: Callable[[Any, Mapping[str, Any]], Channels]
    halo: Callable[[Mapping[str, Any], float], int] = lambda parameters, rate: 0
    gaps: Literal["kept", "bridged"] = "kept"
    regions: tuple[str, ...] = ()
    within: Callable[[Channels, Mapping[str, Any], Any], Channels] | None = None


Source = Recording | Channels
