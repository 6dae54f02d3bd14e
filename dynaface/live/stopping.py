"""How a process of feeds is told to end."""

import asyncio
import signal


def told_to_stop() -> asyncio.Event:
    """Set at SIGINT or SIGTERM; called once by a process, in its loop."""
    stopped = asyncio.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        asyncio.get_running_loop().add_signal_handler(number, stopped.set)
    return stopped
