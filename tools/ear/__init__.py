"""Training the ear, for whoever changes what it hears: `./run train-ear`.

Speech with known times is made by synthesisers and taken from recordings of people, augmented in many ways, and a
network is trained on it; what comes of it is `tinfork/engines/ear.npz`.
"""
