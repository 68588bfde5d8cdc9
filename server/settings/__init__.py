"""Settings: `base` holds everywhere; `production`, `demo` and `test` stand on it."""
