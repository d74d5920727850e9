"""The document: one frozen value, how it is kept on disk, and its history."""
