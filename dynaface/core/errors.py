"""The one exception tree.

DynafaceError          anything that we raise on purpose; `message` is for people
├── InputError         something brought in is wrong (a file, a value); says what, where, what to do
│   └── LimitError     it is sound but larger than a stated limit
├── NotFoundError      what was asked for is not there
├── ConflictError      somebody else has changed the same thing since
├── DeniedError        this person may not do that
└── CancelledError     the work was cancelled on request
"""

from collections.abc import Iterator
from contextlib import contextmanager


class DynafaceError(Exception):
    """Base of all. `where` is a place in the input ("line 7, column 'jawOpen'"), `hint` says what to do."""

    def __init__(self, message: str, *, where: str = "", hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.where = where
        self.hint = hint

    def __str__(self) -> str:
        """One line: what, where, what to do."""
        text = f"{self.message} ({self.where})" if self.where else self.message
        return f"{text}. {self.hint}" if self.hint else text


class InputError(DynafaceError):
    """What was brought in is wrong."""


@contextmanager
def said_of(name: str) -> Iterator[None]:
    """Errors of bad input in here say which file they are about."""
    try:
        yield
    except InputError as error:
        raise type(error)(f"{name}: {error.message}", where=error.where, hint=error.hint) from None


class LimitError(InputError):
    """What was brought in is larger than a stated limit."""


class NotFoundError(DynafaceError):
    """What was asked for is not there."""


class ConflictError(DynafaceError):
    """Somebody else has changed the same thing since; `who` and `what` name it."""

    def __init__(self, message: str, *, who: str = "", what: str = "", hint: str = "") -> None:
        super().__init__(message, hint=hint)
        self.who = who
        self.what = what


class DeniedError(DynafaceError):
    """This person may not do that."""


class CancelledError(DynafaceError):
    """The work was cancelled on request."""
