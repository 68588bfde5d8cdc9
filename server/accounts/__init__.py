"""Who uses it: signing in and out."""
