"""Props: things that stand in a shot, move by themselves, or are held by hands and passed on."""
