"""Recording: packets of the shared encoder and the outgoing sound, into files that outlive a pulled plug."""
