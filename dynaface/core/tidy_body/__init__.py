"""Tidy steps for bodies: on joints of a body take, before it is carried onto a character."""
