"""Documents: what people edit. Changes by path, undo, and what each kind of document may hold."""
