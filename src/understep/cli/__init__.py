"""The command ``understep``: check levels and rules without starting a game."""
