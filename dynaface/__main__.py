"""`python -m dynaface` is the command line."""

from dynaface.cli import main

main()
