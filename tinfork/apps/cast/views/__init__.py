"""The cast's pages: characters, charts, drawings, pages to cut up, placing, the check, the starter chart, trying it."""
