"""waitress around the application: one process, so that what is kept in memory is kept once.

A request is taken in whole by one loop before a thread is given to it: slow and silent senders hold a socket and nothing else.
"""

import logging

import waitress

from dynaface.pipelines.warm_up import warm_up
from dynaface.services.media.receive_upload import MAX_BODY
from dynaface.settings import Settings
from dynaface.wiring import web

THREADS, SOCKETS = 8, 1000
SILENT = 30  # seconds after which a socket without any traffic is closed


def serve(settings: Settings, host: str, port: int, warm: bool) -> None:
    """Serves until told to stop; warm: what is compiled when it is first used is used once before."""
    logging.getLogger("waitress").setLevel(logging.ERROR)  # a queue that is not empty is no news
    app = web(settings)
    if warm:
        warm_up()
    waitress.serve(
        app,
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
