"""Dynaface: from a facial performance to a talking character."""
