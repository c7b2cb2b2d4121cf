"""Views of the cast.

Characters, charts, drawings, pages to cut up, placing, the check, the starter chart, trying a chart.
"""
