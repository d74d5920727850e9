"""From the card to a safe place: verified copies that never touch the original, and their manifest."""
