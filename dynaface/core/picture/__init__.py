"""Pictures of surfaces, drawn on the processor: workers have no graphics card."""
