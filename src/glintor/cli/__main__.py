"""`python -m glintor.cli`."""

import sys

from glintor.cli import main

sys.exit(main())
