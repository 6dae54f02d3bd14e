"""Words of sounds: found, leading in a shot, and a face made of them."""
