"""Contacts of a body: where feet stand on the ground, and holding them there."""
