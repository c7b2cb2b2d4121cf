"""A shot as it is seen and as it leaves: characters that stand in a picture, what their columns show, what is said."""
