"""python -m valleylight"""

import sys

from valleylight.cli import main

if __name__ == "__main__":
    sys.exit(main())
