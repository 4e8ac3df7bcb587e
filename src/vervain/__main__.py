"""`python -m vervain` is the command `vervain`."""

import sys

from vervain.cli import main

sys.exit(main())
