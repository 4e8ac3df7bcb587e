"""Lets `python -m vervain` start the program."""

import sys

from vervain.entry import main

sys.exit(main())
