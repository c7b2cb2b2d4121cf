"""The page where a shot is read and cleaned up."""
