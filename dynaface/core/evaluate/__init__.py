"""The evaluation graph: pure nodes known by what goes into them, and one cache for their results."""
