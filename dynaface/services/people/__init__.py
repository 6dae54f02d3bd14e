"""Who signs in and which production they belong to."""
