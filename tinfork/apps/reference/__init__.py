"""Films of people acting, beside a shot: seen in step with its sound, and the face in them followed."""
