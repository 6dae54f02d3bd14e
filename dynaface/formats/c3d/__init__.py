"""C3D, the open format of optical stages (www.c3d.org, user guide of 2021): parameters and points."""
