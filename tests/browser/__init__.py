"""What a browser shows, in Debian's Chromium through Playwright."""
