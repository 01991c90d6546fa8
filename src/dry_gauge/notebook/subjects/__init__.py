"""One file a subject: its bodies, its part of the visit's state, its kinds as rows. A file put here is found by itself."""
