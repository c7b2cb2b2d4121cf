"""What people are told: on the page and by mail; and what happened in a production."""
