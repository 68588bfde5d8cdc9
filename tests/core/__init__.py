"""The core's tests: no Django. Each check against something outside names its source."""
