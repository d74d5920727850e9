"""The demo day on the Hollin Cut: six shots, three takes, one of them cut. All names are invented."""
