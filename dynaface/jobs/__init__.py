"""The queue: thin handlers around services, with progress, cancel and an honest error."""
