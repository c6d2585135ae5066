"""Large lands in sectors, the demo land, surveys over many boards."""
