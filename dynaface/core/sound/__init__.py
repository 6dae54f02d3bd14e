"""Sound as samples: what the wave shows and where the energy is."""
