"""The API: what the screens read. Results of the core, as they are, with the units they are in."""
