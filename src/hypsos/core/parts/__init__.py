"""The parts of a model as values: airframe, transmitter, leads, linkages, mix lines, conditions."""
