"""Pictures that are decoded ahead come in order, end as they would, and are left when nobody asks any more."""

import itertools

import pytest

from dynaface.core.track.footage import ahead


def test_all_come_in_order():
    assert list(ahead(iter(range(100)), 3)) == list(range(100))
    assert list(ahead(iter(()))) == []


def test_an_error_is_told_where_it_belongs():
    def broken():
        yield from range(4)
        raise ValueError("the tail is damaged")

    made = ahead(broken(), 2)
    assert [next(made) for _ in range(4)] == [0, 1, 2, 3]
    with pytest.raises(ValueError, match="damaged"):
        next(made)


def test_no_more_is_made_than_is_asked_for():
    taken = []

    def endless():
        for n in itertools.count():
            taken.append(n)
            yield n

    made = ahead(endless(), 3)
    assert [next(made) for _ in range(5)] == [0, 1, 2, 3, 4]
    made.close()
    assert len(taken) <= 5 + 3 + 2
