"""All that the analyst says of an installation, as validated frozen dataclasses, and its JSON.

In: what is typed in Set up, or a file (docs/formats.md). Out: `installation.Installation`, read and
written by `as_json`. May import: `ember.basis`, `ember.properties`.
"""
