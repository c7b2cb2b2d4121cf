"""Scripts of whole productions: pasted or brought, their names matched, their lines laid on shots."""
