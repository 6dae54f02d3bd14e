"""The head of a body: which joints turn it, its eyes, what carries it, and how its travel leans the trunk."""
