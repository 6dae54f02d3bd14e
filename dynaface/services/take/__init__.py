"""Takes: imported, opened, tidied, keyed, evaluated, compared."""
