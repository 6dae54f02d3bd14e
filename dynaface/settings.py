"""Settings from the environment, read once in wiring."""

import os
import secrets
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

FEED_PORT = 8471
BUILT_PAGE = Path(__file__).parent / "page"
LOOPBACK = ("127.0.0.1", "localhost")  # names of this machine for itself


@dataclass(frozen=True)
class LiveSettings:
    """folder: where recordings are written until they are takes; port: of the feeds' own web server, 0 where there is none; address: under
    which pages reach it from elsewhere, "" for the name by which they reach the page; feed_host, feed_port: where senders are heard.
    """

    folder: Path = Path(".dynaface/live")
    port: int = 0
    address: str = ""
    feed_host: str = LOOPBACK[0]
    feed_port: int = FEED_PORT


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
    live: LiveSettings = LiveSettings()


def from_environment() -> Settings:
    """Reads DYNAFACE_DATABASE, _MEDIA, _ACCOUNTS, _NODE, _SECRET_FILE, _PROXIES, _HOSTS, _DEMO, _LIVE_FOLDER, _LIVE_PORT, _LIVE_ADDRESS,
    _FEED_HOST, _FEED_PORT.
    """
    database = os.environ.get("DYNAFACE_DATABASE")
    if not database:
        raise SystemExit("dynaface: DYNAFACE_DATABASE is not set; use ./dev start, or ./dev run COMMAND")
    return Settings(
        database=database,
        media=os.environ.get("DYNAFACE_MEDIA", ".dynaface/media"),
        accounts=os.environ.get("DYNAFACE_ACCOUNTS", "alone"),
        node=os.environ.get("DYNAFACE_NODE", ""),
        secret=_secret(os.environ.get("DYNAFACE_SECRET_FILE", "")),
        frontend=BUILT_PAGE,
        proxies=_count("DYNAFACE_PROXIES"),
        hosts=tuple(h.strip() for h in os.environ.get("DYNAFACE_HOSTS", "").split(",") if h.strip()),
        demo=os.environ.get("DYNAFACE_DEMO", "yes") != "no",
        live=LiveSettings(
            folder=Path(os.environ.get("DYNAFACE_LIVE_FOLDER", ".dynaface/live")),
            port=_count("DYNAFACE_LIVE_PORT"),
            address=os.environ.get("DYNAFACE_LIVE_ADDRESS", ""),
            feed_host=os.environ.get("DYNAFACE_FEED_HOST", LOOPBACK[0]),
            feed_port=_count("DYNAFACE_FEED_PORT", FEED_PORT),
        ),
    )


def _count(name: str, usual: int = 0) -> int:
    given = os.environ.get(name, str(usual))
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
