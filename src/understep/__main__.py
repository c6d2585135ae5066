"""``python -m understep`` is the command ``understep``."""

from understep.cli.main import main

main(prog_name="understep")
