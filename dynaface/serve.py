"""waitress around the application: one process, so that what is kept in memory is kept once.

A request is taken in whole by one loop before a thread is given to it: slow and silent senders hold a socket and nothing else, and
that not for long.
"""

import logging
import time

import waitress.server
from waitress.channel import HTTPChannel

from dynaface.pipelines.warm_up import warm_up
from dynaface.services.media.receive_upload import MAX_BODY
from dynaface.settings import Settings
from dynaface.wiring import web

THREADS, SOCKETS = 8, 1000
SILENT = 30  # seconds after which a socket without any traffic is closed
SLOWEST = 1024  # bytes of a body a second, of whoever is not to count as silent


class Channel(HTTPChannel):  # type: ignore[misc]
    """A socket whose sender is credited for what has come, not for having sent something.

    A head has SILENT seconds from its first byte on; each SLOWEST bytes of a body give a second more.
    """

    _began = 0.0

    def received(self, data: bytes) -> bool:
        """Takes in what has come, and dates the last activity back where it came too slowly."""
        now = time.time()
        if self.request is None:
            self._began = now
        taken: bool = super().received(data)
        if self.request is not None:
            self.last_activity = min(now, self._began + self.request.body_bytes_received / SLOWEST)
        return taken


def make_server(settings: Settings, host: str, port: int, warm: bool):  # type: ignore[no-untyped-def]
    """The server, bound and not yet running; warm: what is compiled when it is first used is used once before."""
    logging.getLogger("waitress").setLevel(logging.ERROR)  # a queue that is not empty is no news
    app = web(settings)
    if warm:
        warm_up()
    sockets: dict[int, object] = {}
    server = waitress.server.create_server(
        app,
        map=sockets,
        host=host,
        port=port,
        threads=THREADS,
        connection_limit=SOCKETS,
        channel_timeout=SILENT,
        cleanup_interval=5,
        asyncore_use_poll=True,
        max_request_body_size=MAX_BODY,
        inbuf_overflow=1 << 20,
        ident=None,
        # Forwarded headers are read by the application, from as many proxies as it was told of.
        clear_untrusted_proxy_headers=False,
        expose_tracebacks=False,
    )
    for part in sockets.values():  # a name may stand for several addresses, each with a server of its own
        if isinstance(part, waitress.server.BaseWSGIServer):
            part.channel_class = Channel
    return server


def serve(settings: Settings, host: str, port: int, warm: bool) -> None:
    """Serves until told to stop."""
    make_server(settings, host, port, warm).run()
