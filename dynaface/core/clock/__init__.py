"""Frame rates, and frames <-> seconds <-> timecode, in one place; sync by sound."""
