"""The command line: owl ..."""

from attentive_owl.cli.main import main

__all__ = ["main"]
