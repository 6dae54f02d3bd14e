"""Words and phones with their times, what the lips and the jaw do for them, and what leads where somebody speaks."""
