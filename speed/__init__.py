"""Speed, measured in one run against a plain notebook and against the limit."""
