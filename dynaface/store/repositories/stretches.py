"""Who measures which stretch of footage, and what was measured."""

from datetime import timedelta

from sqlalchemy import Connection, and_, func, select
from sqlalchemy.dialects.postgresql import insert

from dynaface.store.tables.stretches import stretches

Span = tuple[int, int]
_t = stretches.c


class Stretches:
    """Claims of stretches (footage, what, first, last) and their results."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def claim(self, footage: str, what: str, span: Span, owner: str, stale: float) -> bool:
        """True when the stretch is now the owner's: nobody had it, or who had it was not heard of for `stale` seconds."""
        row = {"footage": footage, "what": what, "first": span[0], "last": span[1], "owner": owner}
        lost = and_(_t.media == "", _t.seen < func.now() - timedelta(seconds=stale))
        taken = insert(stretches).values(**row).on_conflict_do_update(
            index_elements=["footage", "what", "first", "last"],
            set_={"owner": owner, "reached": 0, "seen": func.now()}, where=lost,
        ).returning(_t.owner)  # fmt: skip
        return self._db.execute(taken).scalar_one_or_none() == owner

    def advance(self, footage: str, what: str, span: Span, owner: str, reached: int, media: str = "") -> None:
        """Says how many frames of it are done, and in the end where the result is."""
        where = (_t.footage == footage, _t.what == what, _t.first == span[0], _t.last == span[1], _t.owner == owner)
        self._db.execute(stretches.update().where(*where).values(reached=reached, seen=func.now(), media=media))

    def leave(self, footage: str, what: str, owner: str) -> None:
        """Gives up what the owner has not finished."""
        self._db.execute(
            stretches.delete().where(_t.footage == footage, _t.what == what, _t.owner == owner, _t.media == "")
        )

    def state(self, footage: str, what: str) -> dict[Span, tuple[int, str]]:
        """(frames done, medium or "") by stretch."""
        rows = self._db.execute(select(stretches).where(_t.footage == footage, _t.what == what))
        return {(r.first, r.last): (r.reached, r.media) for r in rows}

    def forget(self, footage: str, what: str) -> None:
        """Drops what is known of it."""
        self._db.execute(stretches.delete().where(_t.footage == footage, _t.what == what))
