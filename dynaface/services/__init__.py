"""Use cases, one file each, verb first: transaction, permission, history."""
