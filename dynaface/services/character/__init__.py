"""Characters: their joints and their health."""
