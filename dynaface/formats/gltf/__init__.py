"""glTF 2.0: reading characters, baking a performance onto one."""
