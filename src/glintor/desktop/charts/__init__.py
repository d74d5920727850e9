"""Charts drawn with QPainter: one small scale helper and the marks that every chart shares."""
