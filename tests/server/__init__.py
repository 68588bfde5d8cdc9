"""The commands, through Django."""
