"""`python -m cartouche`."""

import sys

from cartouche.cli import main

sys.exit(main())
