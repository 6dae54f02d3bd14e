"""Work that was handed over, edited elsewhere and brought back: what of it is different, as a layer."""
