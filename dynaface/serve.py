"""gunicorn around the application: one process, several threads, so that what is kept in memory is kept once."""

from typing import Any

from gunicorn.app.base import BaseApplication

from dynaface.settings import Settings
from dynaface.wiring import web


class _Server(BaseApplication):  # type: ignore[misc]
    def __init__(self, settings: Settings, options: dict[str, Any]) -> None:
        self._settings = settings
        self._options = options
        super().__init__()

    def load_config(self) -> None:
        for key, value in self._options.items():
            self.cfg.set(key, value)

    def load(self) -> Any:
        return web(self._settings)


def serve(settings: Settings, host: str, port: int) -> None:
    """Serves until told to stop."""
    options = {
        "bind": f"{host}:{port}", "workers": 1, "threads": 8, "worker_class": "gthread", "timeout": 120,
        "accesslog": None, "errorlog": "-", "loglevel": "warning", "keepalive": 15, "graceful_timeout": 3,
    }  # fmt: skip
    _Server(settings, options).run()
