"""What is handed over: formats, what a render will give and cost, and the render itself."""
