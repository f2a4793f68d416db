"""`python -m ondine`."""

from ondine.cli import main

raise SystemExit(main())
