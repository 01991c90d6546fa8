"""`python -m dry_gauge.cli` is `dry-gauge`."""

import sys

from dry_gauge.cli import main

if __name__ == "__main__":  # a process that this one starts reads this file again
    sys.exit(main())
