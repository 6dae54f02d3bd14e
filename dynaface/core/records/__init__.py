"""What the store gives back: plain records without behaviour."""
