"""What leaves: sheets and pictures."""
