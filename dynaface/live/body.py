"""The body of one performer of one sender: what came of it last, what it hangs on, and how it stands on a character."""

from dataclasses import dataclass, field

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.feed.arrivals import Arrivals, Kind
from dynaface.core.feed.joint_rows import skeleton_of
from dynaface.core.feed.packet import JointRow, Packet, Place, Quaternion
from dynaface.core.perform.follow_body import BodyFollower, hung_as
from dynaface.core.perform.join import RetargetedBody
from dynaface.services.feed.live_character import LiveCharacter


@dataclass
class SenderBody:
    """arrivals: of packets that bring a body and no face; rows: the skeleton as it came; joints, root: as they are now."""

    arrivals: Arrivals = field(default_factory=Arrivals)
    rows: tuple[JointRow, ...] = ()
    joints: dict[str, Quaternion] = field(default_factory=dict)
    root: Place | None = None
    _skeleton: Skeleton | None = None
    _on: LiveCharacter | None = None
    _follower: BodyFollower | None = None
    _posed: RetargetedBody | None = None

    def heard(self, packet: Packet, now: float) -> Kind:
        """Takes a packet in that brings a body and no face."""
        kind = self.arrivals.heard(packet, now)
        if kind == "new":
            self.take(packet)
        return kind

    def take(self, packet: Packet) -> None:
        """What a packet that counts says of the body."""
        if packet.joints.keys() - self.joints.keys() and not self.rows:
            self._on = None  # a skeleton of which only names are known has more joints now
        self.joints.update(packet.joints)
        self.root = packet.root if packet.root is not None else self.root
        self._posed = None

    def hangs_on(self, rows: tuple[JointRow, ...]) -> None:
        """The skeleton, as its sender says it."""
        if rows != self.rows:
            self.rows, self._skeleton, self._on = rows, skeleton_of(rows), None

    @property
    def hangs(self) -> str:
        """What it hangs on: a "skeleton" of its sender's, as its "names" say, or on "nothing" that is known; "" where nobody asked yet."""
        if self._skeleton is not None:
            return "skeleton"
        if self._on is None:
            return ""
        return "names" if self._follower is not None else "nothing"

    def on(self, character: LiveCharacter) -> RetargetedBody | None:
        """How it stands on a character now; None where nothing is known, or neither its skeleton nor its joints' names say enough."""
        if not self.joints or character.rig.skeleton is None:
            return None
        if self._on is not character:
            source = self._skeleton or hung_as(character.rig.skeleton, list(self.joints))
            self._follower = character.follower(source) if source is not None else None
            self._on, self._posed = character, None
        if self._posed is None and self._follower is not None:
            self._posed = self._follower.frame(self.joints, self.root)
        return self._posed
