"""Text and bytes into core values and back; no database."""
