"""Flask: parse -> one service -> serialise."""
