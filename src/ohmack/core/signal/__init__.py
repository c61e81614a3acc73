"""Signal: levels from the source to the driver, where a signal is taken from, and what switches things on."""
