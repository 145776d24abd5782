"""Where the self-contained folder begins."""

import sys

from cartouche.cli import main

sys.exit(main())
