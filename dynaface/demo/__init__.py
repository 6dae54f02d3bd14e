"""The demo production, seeded once from the committed media."""
