"""Line-ups: the recordings of a moment on one clock, found, nudged, and put to use in takes and shots."""
