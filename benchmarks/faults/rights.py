"""Commands run without the rights by which root reads and writes everything: closed files are closed for them."""

import os

_DAC = "-dac_override,-dac_read_search"
PLAIN_RIGHTS = ["setpriv", f"--bounding-set={_DAC}", f"--inh-caps={_DAC}"] if os.getuid() == 0 else []
"""What to put before a command."""
