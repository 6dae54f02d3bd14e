"""Sources with their blocks of numbers, and reading recipes."""

from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from typing import Any
from uuid import uuid4

import numpy as np
import zstandard
from sqlalchemy import Connection, cast, select
from sqlalchemy.dialects.postgresql import JSONB, insert

from dynaface.core.records.records import Source
from dynaface.store.tables.sources import blocks, recipes, sources

CHUNK = 4096  # rows a block


def _chunks(pieces: Iterable[np.ndarray]) -> Iterator[np.ndarray]:
    """The rows of all pieces CHUNK at a time, the rest at last; one empty chunk where no piece has rows."""
    held: list[np.ndarray] = []
    count, whole = 0, 0
    for piece in pieces:
        while count + len(piece) >= CHUNK:
            taken = CHUNK - count
            yield np.concatenate([*held, piece[:taken]])
            held, count, piece = [], 0, piece[taken:]
            whole += 1
        held.append(piece)
        count += len(piece)
    if count or not whole:
        yield np.concatenate(held)


class Sources:
    """Sources with their blocks of numbers, and reading recipes."""

    def __init__(self, connection: Connection) -> None:
        self._db = connection

    def add(self, production: str, kind: str, name: str, media: str, size: int, info: dict[str, Any], identity: str = ""
            ) -> Source:  # fmt: skip
        """A new source."""
        source = Source(identity or str(uuid4()), production, kind, name, media, size, info)
        self._db.execute(
            sources.insert().values(
                id=source.id, production=production, kind=kind, name=name, media=media, size=size, info=info
            )
        )
        return source

    def get(self, source: str) -> Source | None:
        """The source of this id."""
        found = self.many([source])
        return found[0] if found else None

    def many(self, wanted: Sequence[str]) -> list[Source]:
        """Sources by id."""
        rows = self._db.execute(select(sources).where(sources.c.id.in_(wanted)))
        return [Source(r.id, r.production, r.kind, r.name, r.media, r.size, r.info) for r in rows]

    def uses(self, media: str, production: str = "") -> bool:
        """Whether any source, or any of a production, is these bytes."""
        query = select(sources.c.id).where(sources.c.media == media).limit(1)
        if production:
            query = query.where(sources.c.production == production)
        return self._db.execute(query).first() is not None

    def note(self, source: str, **found: Any) -> None:
        """Adds to a source's info what was found out about it later; its bytes never change."""
        # Merged by the database in one statement: two that note at once both stay.
        merged = sources.c.info.op("||")(cast(found, JSONB))
        self._db.execute(sources.update().where(sources.c.id == source).values(info=merged))

    def solves_of(self, footage: str) -> list[tuple[Source, datetime]]:
        """Solves of a footage source with when they were made, newest first."""
        where = (sources.c.kind == "curves", sources.c.info["solve"]["footage"].astext == footage)
        rows = self._db.execute(select(sources).where(*where).order_by(sources.c.created.desc()))
        return [(Source(r.id, r.production, r.kind, r.name, r.media, r.size, r.info), r.created) for r in rows]

    def drop_block(self, source: str, part: str) -> None:
        """Forgets a part."""
        self._db.execute(blocks.delete().where(blocks.c.source == source, blocks.c.part == part))

    def write_block(self, source: str, part: str, values: np.ndarray) -> None:
        """Stores (rows, columns) of float32 or float64 in chunks; the part's name ends in its type ("times:f8")."""
        self.write_rows(source, part, iter([values]))

    def write_rows(self, source: str, part: str, pieces: Iterable[np.ndarray]) -> None:
        """The same of rows that come in pieces (n, columns): one chunk and one piece are in memory at a time."""
        code = np.dtype("<" + part.rsplit(":", 1)[1])
        packer = zstandard.ZstdCompressor(level=3)
        for number, chunk in enumerate(_chunks(pieces)):
            flat = np.ascontiguousarray(chunk.reshape(len(chunk), int(np.prod(chunk.shape[1:]))), code)
            # Bytes of one place together: neighbouring values share their high bytes.
            shuffled = flat.view(np.uint8).reshape(-1, code.itemsize).T.copy()
            self._db.execute(
                blocks.insert().values(
                    source=source, part=part, number=number, rows=len(flat), columns=flat.shape[1],
                    data=packer.compress(shuffled.tobytes()))
            )  # fmt: skip

    def has_rows(self, source: str, part: str) -> bool:
        """Whether a part is there and not empty."""
        where = (blocks.c.source == source, blocks.c.part == part, blocks.c.rows > 0)
        return self._db.execute(select(blocks.c.number).where(*where).limit(1)).first() is not None

    def read_block(self, source: str, part: str, first: int = 0, last: int | None = None) -> np.ndarray | None:
        """(rows, columns) of a part, or of its rows first..last as far as they are there; None where there are none."""
        code = np.dtype("<" + part.rsplit(":", 1)[1])
        begins = first // CHUNK
        query = select(blocks).where(blocks.c.source == source, blocks.c.part == part, blocks.c.number >= begins)
        if last is not None:
            query = query.where(blocks.c.number <= last // CHUNK)
        unpacker = zstandard.ZstdDecompressor()
        parts = []
        for row in self._db.execute(query.order_by(blocks.c.number)):
            raw = np.frombuffer(unpacker.decompress(row.data), np.uint8).reshape(code.itemsize, -1)
            parts.append(raw.T.copy().view(code).reshape(row.rows, row.columns))
        if not parts:
            return None
        start = begins * CHUNK
        return np.concatenate(parts)[first - start : None if last is None else last + 1 - start]

    def learn_recipe(self, production: str, header: str, recipe: dict[str, Any]) -> None:
        """Keeps how tables with this header are read."""
        statement = insert(recipes).values(production=production, header=header, recipe=recipe)
        self._db.execute(
            statement.on_conflict_do_update(index_elements=["production", "header"], set_={"recipe": recipe})
        )

    def recipe_for(self, production: str, header: str) -> dict[str, Any] | None:
        """How tables with this header were read last."""
        where = (recipes.c.production == production, recipes.c.header == header)
        return self._db.execute(select(recipes.c.recipe).where(*where)).scalar_one_or_none()
