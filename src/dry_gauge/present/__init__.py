"""What a station shows, as frozen values: page, live stream, PDF and report read the same. Pure; drawing is above."""
