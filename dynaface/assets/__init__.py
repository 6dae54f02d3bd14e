"""Data that ships with the product: heads, the landmark model, the demo's characters and takes (see NOTICE)."""

from pathlib import Path

ASSETS = Path(__file__).parent
