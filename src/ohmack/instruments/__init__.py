"""Instruments: reading them over the network, and a simulated bench to practise on."""
