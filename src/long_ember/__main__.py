"""`python -m long_ember` is the `long-ember` command."""

import sys

from long_ember.cli import main

sys.exit(main())
