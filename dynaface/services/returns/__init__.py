"""What was handed over, edited elsewhere and brought back."""
