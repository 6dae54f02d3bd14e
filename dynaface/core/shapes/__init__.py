"""The standard set of face shapes, its regions, spellings and mirrored pairs."""
