"""Shots: clips of takes placed in time, and what a role's lanes give at the shot's frames."""
