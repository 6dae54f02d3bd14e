"""Which joint of one skeleton is which of another."""
