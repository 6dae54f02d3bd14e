"""How a body is put on a character, as settings: who moves what, in which time, how far it goes, where its feet stand."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from dynaface.core import checks
from dynaface.core.contact.by_hand import SIDES, SetContact
from dynaface.core.contact.find_hands import TOUCHES
from dynaface.core.errors import InputError
from dynaface.core.layers.weight import Weight
from dynaface.core.match.hands import SIDES as SIDES_OF_HANDS
from dynaface.core.match.match_settings import Degrees, MatchSettings
from dynaface.core.match.propose import CHAIN_WAYS
from dynaface.core.match.travel import TRAVELS
from dynaface.core.tidy_body.stack import parse_body_steps
from dynaface.core.tidy_body.step import PlacedBodyStep

FIELDS = (
    "tidy",
    "contacts",
    "floor",
    "matches",
    "turns",
    "calibration",
    "chains",
    "nudge",
    "look",
    "headFrom",
    "spread",
    "headShares",
    "filmed",
    "travel",
    "start",
    "lean",
    "feet",
    "touch",
    "arms",
    "legs",
    "handsMatches",
    "handsTurns",
    "handsNudge",
    "hands",
)


LOOKS = ("head", "world")
SPREADS = ("even", "measured", "set")
FILMED = ("chest", "fixed", "head")
MOST_SHARE = 10.0
MOST_NUDGE = 24 * 3600 * 240  # frames: clocks of two recordings can be a day apart
HANDS = (*SIDES_OF_HANDS, "none")
OF_HEAD = ("head_weight", "look", "head_from", "spread", "head_shares", "filmed")


@dataclass(frozen=True)
class JoinSettings:
    """tidy: steps for the body take, in their order, before it is carried onto the character; match: of body and character; nudge: frames of the take by which the body is moved later;
    head_weight: 0 the body's own head .. 1 the face take's, over the frames of the take; look: of `LOOKS`, to what
    eyes keep it where the head is turned otherwise than the face take saw it; head_from: the lowest joint that takes part in turning the
    head, "" for that of the neck; spread: of `SPREADS`, how the joints from there on share the turn: alike, as the body take has it, or by
    head_shares, joint -> weight; filmed: of `FILMED`, what the camera of the face take stood still against; travel: of `TRAVELS`; start: whether it begins where
    the character stands; lean: 0..1 of the head's travel in the face take after which the trunk leans; feet: whether feet that stood in the
    body take stand; touch: whether hands that touched the head or each other do; contacts: of feet and hands that were set by hand, by id; floor: metres by which the ground lies
    higher than where the character stands at rest; arms, legs: 0..1, angles of limbs .. places of hands and feet; hands_match,
    hands_nudge: the same of a take of hands; hands: which of them count, of `HANDS`.
    """

    tidy: tuple[PlacedBodyStep, ...] = ()
    match: MatchSettings = field(default_factory=MatchSettings)
    nudge: float = 0.0
    head_weight: Weight = field(default_factory=Weight)
    look: str = "head"
    head_from: str = ""
    spread: str = "even"
    head_shares: Mapping[str, float] = field(default_factory=dict)
    filmed: str = "chest"
    travel: str = "scaled"
    start: bool = False
    lean: float = 0.0
    feet: bool = False
    touch: bool = False
    arms: float = 0.0
    legs: float = 0.0
    contacts: Mapping[str, SetContact] = field(default_factory=dict)
    floor: float = 0.0
    hands_match: MatchSettings = field(default_factory=MatchSettings)
    hands_nudge: float = 0.0
    hands: str = "both"


def parse_join(data: Mapping[str, Any]) -> JoinSettings:
    """Settings from plain data, but for the head's weight; raises InputError."""
    for key in data:
        checks.one_of("join field", key, FIELDS)
    held = data.get("calibration")
    return JoinSettings(
        parse_body_steps(data.get("tidy", ())),
        MatchSettings(
            _matches(data, "matches"),
            parse_turns(data.get("turns", {})),
            None if held is None else checks.within("calibration", held, 0, 100_000),
            chains=checks.one_of("chains", data.get("chains", ""), ("", *CHAIN_WAYS)),
        ),
        nudge=_frames(data, "nudge"),
        travel=checks.one_of("travel", data.get("travel", "scaled"), tuple(TRAVELS)),
        look=checks.one_of("look", data.get("look", "head"), LOOKS),
        head_from=_word(data, "headFrom"),
        spread=checks.one_of("spread", data.get("spread", "even"), SPREADS),
        head_shares=_shares(data.get("headShares", {})),
        filmed=checks.one_of("filmed", data.get("filmed", "chest"), FILMED),
        start=_switch(data, "start"),
        feet=_switch(data, "feet"),
        touch=_switch(data, "touch"),
        contacts=parse_contacts(data.get("contacts", {})),
        floor=checks.within("floor", data.get("floor", 0.0), -1000, 1000),
        lean=_share(data, "lean"),
        arms=_share(data, "arms"),
        legs=_share(data, "legs"),
        hands_match=MatchSettings(_matches(data, "handsMatches"), parse_turns(data.get("handsTurns", {}))),
        hands_nudge=_frames(data, "handsNudge"),
        hands=checks.one_of("hands", data.get("hands", "both"), HANDS),
    )


def _matches(data: Mapping[str, Any], name: str) -> dict[str, str]:
    matches = data.get(name, {})
    if not isinstance(matches, Mapping) or not all(isinstance(v, str) for v in matches.values()):
        raise InputError(f"{name} must be a table of joint names by joint name")
    return dict(matches)


def _word(data: Mapping[str, Any], name: str) -> str:
    given = data.get(name, "")
    if not isinstance(given, str):
        raise InputError(f"{name} is {given!r:.80}; it must be a name")
    return given


def _frames(data: Mapping[str, Any], name: str) -> float:
    return checks.within(name, data.get(name, 0.0), -MOST_NUDGE, MOST_NUDGE)


def parse_turns(data: Any) -> dict[str, Degrees]:
    """Joint -> degrees about three axes, from plain data; raises InputError."""
    if not isinstance(data, Mapping):
        raise InputError("turns must be a table of three angles by joint name")
    out: dict[str, Degrees] = {}
    for joint, given in data.items():
        if not isinstance(given, Sequence) or isinstance(given, str) or len(given) != 3:
            raise InputError(f"the turn of {joint} is {given!r}; it must be three angles in degrees")
        x, y, z = (checks.within(f"the turn of {joint}", v, -180, 180) for v in given)
        out[str(joint)] = (x, y, z)
    return out


def _shares(given: Any) -> dict[str, float]:
    if not isinstance(given, Mapping):
        raise InputError("headShares must be a table of weights by joint name")
    return {str(j): checks.within(f"the share of {j}", v, 0, MOST_SHARE) for j, v in given.items()}


def _share(data: Mapping[str, Any], name: str) -> float:
    return checks.within(name, data.get(name, 0.0), 0, 1)


def parse_contacts(data: Any) -> dict[str, SetContact]:
    """Contacts set by hand from plain data, each {"side", "first", "last", "stands"?, "over"?}; raises InputError."""
    if not isinstance(data, Mapping) or not all(isinstance(given, Mapping) for given in data.values()):
        raise InputError("contacts must be a table of spans by id")
    out: dict[str, SetContact] = {}
    for key, given in data.items():
        side = checks.one_of(f"the side of contact {key}", given.get("side"), (*SIDES, *TOUCHES))
        first, last = (checks.within(f"{n} of contact {key}", given.get(n), 0, 100_000) for n in ("first", "last"))
        if last < first:
            raise InputError(f"contact {key} ends at {last} s, before it begins at {first} s")
        over = given.get("over")
        if over is not None:
            if not isinstance(over, Sequence) or len(over) != 2:
                raise InputError(f"what contact {key} came from is {over!r}; it must be two moments")
            over = (checks.within("over", over[0], 0, 100_000), checks.within("over", over[1], 0, 100_000))
        out[str(key)] = SetContact(side, first, last, bool(given.get("stands", True)), over)
    return out


def _switch(data: Mapping[str, Any], name: str) -> bool:
    said = data.get(name, False)
    if not isinstance(said, bool):
        raise InputError(f"{name} is {said!r}; it must be true or false")
    return said
