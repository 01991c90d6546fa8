"""The order of a call: complaint, survey, cautions, before the compressor starts."""
