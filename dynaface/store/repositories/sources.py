"""Sources with their blocks of numbers, and reading recipes."""

from collections.abc import Sequence
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
        code = np.dtype("<" + part.rsplit(":", 1)[1])
        packer = zstandard.ZstdCompressor(level=3)
        flat = np.ascontiguousarray(values.reshape(len(values), -1), code)
        rows = []
        for number, start in enumerate(range(0, max(len(flat), 1), CHUNK)):
            chunk = flat[start : start + CHUNK]
            # Bytes of one place together: neighbouring values share their high bytes.
            shuffled = chunk.view(np.uint8).reshape(-1, code.itemsize).T.copy()
            rows.append(
                {"source": source, "part": part, "number": number, "rows": len(chunk), "columns": flat.shape[1],
                 "data": packer.compress(shuffled.tobytes())}
            )  # fmt: skip
        self._db.execute(blocks.insert(), rows)

    def read_block(self, source: str, part: str) -> np.ndarray | None:
        """(rows, columns) of a part, or None."""
        code = np.dtype("<" + part.rsplit(":", 1)[1])
        query = select(blocks).where(blocks.c.source == source, blocks.c.part == part).order_by(blocks.c.number)
        unpacker = zstandard.ZstdDecompressor()
        parts = []
        for row in self._db.execute(query):
            raw = np.frombuffer(unpacker.decompress(row.data), np.uint8).reshape(code.itemsize, -1)
            parts.append(raw.T.copy().view(code).reshape(row.rows, row.columns))
        return np.concatenate(parts) if parts else None

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
