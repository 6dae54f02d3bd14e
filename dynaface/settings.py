"""Settings from the environment, read once in wiring."""

import os
import secrets
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

LOOPBACK = ("127.0.0.1", "localhost")  # names of this machine for itself


@dataclass(frozen=True)
class Settings:
    """database: SQLAlchemy URL; media: folder or fsspec URL; accounts: "alone" (one person, loopback only) or "password";
    node: Node.js for the glTF validator; secret: key of the session cookies; frontend: the built pages; proxies: how many
    proxies before the server are trusted to say who asks; hosts: names under which the server is reached beside loopback; demo:
    whether the demo production is made when there is none.
    """

    database: str
    media: str
    accounts: str
    node: str
    secret: str
    frontend: Path
    proxies: int = 0
    hosts: tuple[str, ...] = ()
    demo: bool = True


def from_environment() -> Settings:
    """Reads DYNAFACE_DATABASE, _MEDIA, _ACCOUNTS, _NODE, _SECRET_FILE, _PROXIES, _HOSTS, _DEMO."""
    database = os.environ.get("DYNAFACE_DATABASE")
    if not database:
        raise SystemExit("dynaface: DYNAFACE_DATABASE is not set; use ./dev start, or ./dev run COMMAND")
    return Settings(
        database=database,
        media=os.environ.get("DYNAFACE_MEDIA", ".dynaface/media"),
        accounts=os.environ.get("DYNAFACE_ACCOUNTS", "alone"),
        node=os.environ.get("DYNAFACE_NODE", ""),
        secret=_secret(os.environ.get("DYNAFACE_SECRET_FILE", "")),
        frontend=Path(__file__).parent / "page",
        proxies=_count("DYNAFACE_PROXIES"),
        hosts=tuple(h.strip() for h in os.environ.get("DYNAFACE_HOSTS", "").split(",") if h.strip()),
        demo=os.environ.get("DYNAFACE_DEMO", "yes") != "no",
    )


def _count(name: str) -> int:
    given = os.environ.get(name, "0")
    if not given.isdecimal():
        raise SystemExit(f"dynaface: {name} is {given!r}; it must be a whole number, 0 or more")
    return int(given)


def _secret(path: str) -> str:
    if not path:
        return secrets.token_hex(32)
    file = Path(path)
    if not file.exists():
        file.parent.mkdir(parents=True, exist_ok=True)
        # Written beside and put in its place in one step: two that start at once agree, and nobody reads half of it.
        made = file.with_name(f"{file.name}.{secrets.token_hex(4)}")
        made.touch(mode=0o600)
        made.write_text(secrets.token_hex(32))
        with suppress(FileExistsError):
            os.link(made, file)
        made.unlink()
    return file.read_text()
