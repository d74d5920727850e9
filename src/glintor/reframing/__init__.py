"""Where the flat frame looks: keyframes, the path between them, starting looks and the review of a path."""
