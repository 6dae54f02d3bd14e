"""What comes in and goes out live: packets, how they arrive, and what is made of a performer's values while live."""
