"""Characters, their faces and their mouth charts."""
