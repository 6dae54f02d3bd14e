"""What each kind of document may hold: one file a kind."""
