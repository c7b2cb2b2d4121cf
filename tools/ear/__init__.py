"""Makes the ear's weights: speech of synthesisers with known times, soiled in many ways, and networks trained on
it.
"""
