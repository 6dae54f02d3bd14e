"""Trials: damaged files, malformed calls, kills, strangers. Each is a command with a count and a seed and prints what it found.

./dev run .venv/bin/python -m trials.files --count 10000 --seed 1
"""
