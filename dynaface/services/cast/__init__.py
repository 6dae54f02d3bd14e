"""Cast sheets: extremes, proportions, sheets carried to others."""
