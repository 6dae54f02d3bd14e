"""Cast and body on one character: joins, and performances."""
