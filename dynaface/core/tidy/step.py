"""What a tidy step is."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.parameters import Parameter

StepKind = Literal["retiming", "temporal", "pointwise"]
"""retiming: a Recording in, Channels out; temporal: looks at neighbouring frames; pointwise: each frame on its own."""


@dataclass(frozen=True)
class Step:
    """One clean-up step, described once for the stack, the drawer and the documentation.

    apply: (Recording if retiming else Channels, complete checked parameters) -> Channels; it changes no input.
    reach: (parameters, rate) -> frames to either side that a temporal step looks at; 0 for a pointwise step.
    gaps: what happens to gaps (NaN): "kept" or "bridged" (short ones filled).
    """

    name: str
    label: str
    kind: StepKind
    help: str
    parameters: Sequence[Parameter]
    apply: Callable[[Any, Mapping[str, Any]], Channels]
    reach: Callable[[Mapping[str, Any], float], int] = lambda parameters, rate: 0
    gaps: Literal["kept", "bridged"] = "kept"


Source = Recording | Channels
