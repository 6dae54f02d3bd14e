"""Recordings with their own time stamps, dense channels at one rate, resampling and comparing."""
