"""Files as devices: pages captured beforehand, slides and clips. Foreign bytes are judged here before anything is decoded."""
