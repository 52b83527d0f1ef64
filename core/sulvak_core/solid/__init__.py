"""The kernel adaptor: the only room that imports the geometry kernel. Lengths in mm.

Kernel failures leave here as plain KernelError sentences; every result is checked before it is given out.
"""
