"""What waits for a page: texts in order, of frames the newest, and no more on their way than it takes in."""

import asyncio

import pytest

from dynaface.live.wire import HEAD, WINDOW, Outbox


def frame(sender, number):
    return HEAD.pack(sender, number, 0.0)


@pytest.fixture
def taken():
    """What of an outbox may go now, [] where nothing may."""

    async def soon(outbox):
        try:
            async with asyncio.timeout(0.02):
                return await outbox.take()
        except TimeoutError:
            return []

    with asyncio.Runner() as runner:
        yield lambda outbox: runner.run(soon(outbox))


def test_texts_go_in_their_order_and_of_frames_the_newest_of_each_sender(taken):
    outbox = Outbox()
    for said in ("a", frame(1, 1), "b", frame(2, 1), frame(1, 2)):
        outbox.put(said)
    assert taken(outbox) == ["a", "b", frame(1, 2), frame(2, 1)]
    assert taken(outbox) == []


def test_a_page_that_says_nothing_gets_only_so_many_frames_and_all_texts(taken):
    outbox = Outbox()
    went = []
    for number in range(WINDOW + 5):
        outbox.put(frame(1, number))
        went += taken(outbox)
    assert went == [frame(1, n) for n in range(WINDOW)]
    outbox.put("text")
    assert taken(outbox) == ["text"]


def test_the_newest_goes_once_one_was_seen_and_others_are_not_held_up(taken):
    outbox = Outbox()
    for number in range(WINDOW + 3):
        outbox.put(frame(1, number))
        taken(outbox)
    outbox.put(frame(2, 0))
    assert taken(outbox) == [frame(2, 0)]
    outbox.seen(1)
    assert taken(outbox) == [frame(1, WINDOW + 2)]


@pytest.mark.parametrize("sender", [1, None, "1", [1], 7])
def test_what_was_never_sent_can_not_be_seen(taken, sender):
    outbox = Outbox()
    outbox.seen(sender)
    for number in range(WINDOW + 1):
        outbox.put(frame(1, number))
        taken(outbox)
    outbox.put(frame(1, 99))
    assert taken(outbox) == []
