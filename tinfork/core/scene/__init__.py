"""A shot as a picture and as it is exported: where characters stand, what their columns show, what is said."""
