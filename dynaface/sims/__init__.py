"""Stand-ins for performers and devices: seeded, from known truth, so that every figure can be measured against it."""
