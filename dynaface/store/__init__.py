"""PostgreSQL and the media store. Gives back records and core objects, never rows."""
