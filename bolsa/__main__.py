"""`python -m bolsa` is the command line."""

import sys

from bolsa.cli import main

sys.exit(main())
