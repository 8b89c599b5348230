"""Ground: patches of land with layers, where each lies, how much a tile is seen to repeat, and what is delivered."""
