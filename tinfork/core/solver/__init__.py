"""From timed sounds to holds on frames: costs, the cheapest path, holds."""
