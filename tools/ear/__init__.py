"""Training the ear: `./run train-ear`.

Speech with known times is made by synthesisers and taken from recordings of people, augmented in many ways, and a
network is trained on it; the result is `tinfork/engines/ear.npz`.
"""
