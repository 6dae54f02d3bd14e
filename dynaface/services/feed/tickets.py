"""Tickets and tokens: what lets a page, or another machine, speak with the process that handles feeds. Both are signed, not stored."""

from dataclasses import dataclass

from itsdangerous import BadSignature, SignatureExpired, URLSafeTimedSerializer

from dynaface.core.errors import DeniedError
from dynaface.services.work import Work, allow

TICKET, TOKEN = "a page's feed", "commands to a feed"
SECONDS = {TICKET: 60, TOKEN: 30 * 24 * 3600}
LONGEST = 400


@dataclass(frozen=True)
class Bearer:
    """Who speaks, and about which production."""

    production: str
    person: str


def make_ticket(work: Work, secret: str, production: str, kind: str = TICKET) -> str:
    """A ticket of the person who asks; a TICKET opens a feed within a minute, a TOKEN gives commands for 30 days."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    return str(URLSafeTimedSerializer(secret, salt=kind).dumps([production, work.person]))


def read_ticket(work: Work, secret: str, ticket: str, kind: str = TICKET) -> Bearer:
    """Who has this ticket; raises DeniedError where it is none of ours, is too old, or its bearer is no member any more."""
    if len(ticket) > LONGEST:
        raise DeniedError("this is no ticket")
    try:
        production, person = URLSafeTimedSerializer(secret, salt=kind).loads(ticket, max_age=SECONDS[kind])
    except SignatureExpired:
        raise DeniedError("this token is too old; the Feed panel at the Gather desk gives a new one") from None
    except (BadSignature, ValueError):
        raise DeniedError("this token is not one of this server; the Feed panel at the Gather desk gives one") from None
    with work.store.unit() as unit:
        allow(unit, production, person)
    return Bearer(production, person)
