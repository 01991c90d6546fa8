"""`python -m dry_gauge.cli` is `dry-gauge`."""

import sys

from dry_gauge.cli import main

sys.exit(main())
