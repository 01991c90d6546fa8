"""What the office works out: days and hours, what held, parts, money, replacement, warranty."""
