"""Ports of this machine for tests that listen."""

import socket


def free_port(kind: socket.SocketKind = socket.SOCK_STREAM) -> int:
    """One that nobody listens at."""
    with socket.socket(socket.AF_INET, kind) as made:
        made.bind(("127.0.0.1", 0))
        return int(made.getsockname()[1])
