"""Casting channels onto a character: matching names, cast sheets, eye joints."""
