"""What is handed over, and what is asked for of it."""
