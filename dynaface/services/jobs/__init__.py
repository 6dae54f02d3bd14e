"""Jobs: asked for, followed, cancelled."""
