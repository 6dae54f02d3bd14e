"""Bytes <-> core objects. One file a format in `entries`, chosen by content first, extension second."""
