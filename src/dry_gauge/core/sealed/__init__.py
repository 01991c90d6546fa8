"""The sealed system opened: plan, leak search, pressure hold, evacuation."""
