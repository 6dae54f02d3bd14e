"""The cache of results: what it keeps, what it lets go, and that nothing is worked out twice at once."""

from concurrent.futures import ThreadPoolExecutor
from threading import Barrier, Event

import numpy as np
import pytest

from dynaface.core.evaluate.cache import Cache, size_of


def block(kilobytes: int) -> np.ndarray:
    return np.zeros(kilobytes * 1000, np.uint8)


def test_what_was_made_once_is_given_again():
    cache, made = Cache(10_000), []
    for _ in range(3):
        assert cache.get_or_make("a", lambda: made.append(1) or "result") == "result"
    assert made == [1]


def test_what_was_used_last_is_kept_within_the_bound():
    cache = Cache(10_000)
    for name in "abc":
        cache.put(name, block(4))
        cache.get("a")
    assert cache.get("a") is not None
    assert cache.get("b") is None
    assert cache.bytes_held <= cache.max_bytes


def test_a_result_larger_than_the_cache_is_given_and_not_kept():
    cache = Cache(1000)
    assert len(cache.get_or_make("a", lambda: block(4))) == 4000
    assert cache.get("a") is None
    assert cache.bytes_held == 0


def test_putting_again_counts_once():
    cache = Cache(10_000)
    cache.put("a", block(4))
    cache.put("a", block(2))
    assert cache.bytes_held == size_of(block(2))
    cache.clear()
    assert cache.bytes_held == 0


def test_of_several_who_ask_at_once_one_works_and_all_get_its_result():
    cache, made, barrier = Cache(10_000), [], Barrier(6)

    def ask():
        barrier.wait()
        return cache.get_or_make("a", lambda: made.append(1) or object())

    with ThreadPoolExecutor(6) as pool:
        results = [f.result() for f in [pool.submit(ask) for _ in range(6)]]
    assert made == [1]
    assert len({id(r) for r in results}) == 1


def test_an_error_is_raised_and_the_next_one_tries_again():
    cache = Cache(10_000)
    with pytest.raises(ZeroDivisionError):
        cache.get_or_make("a", lambda: 1 / 0)
    assert cache.get_or_make("a", lambda: 2) == 2


def test_work_on_one_key_keeps_nobody_from_another():
    cache, go = Cache(10_000), Event()
    with ThreadPoolExecutor(2) as pool:
        slow = pool.submit(cache.get_or_make, "slow", lambda: go.wait(10))
        assert cache.get_or_make("quick", lambda: 1) == 1
        go.set()
        assert slow.result() is True


def test_bytes_are_counted_in_all_that_is_held_and_a_view_as_its_base():
    base = block(8)
    assert size_of({"a": base, "b": (base[:10], b"12345")}) == pytest.approx(8000, abs=400)
    assert size_of("x" * 50) == 50
