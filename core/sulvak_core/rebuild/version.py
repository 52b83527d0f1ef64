"""What results are made with. Needs no kernel, so that the web server can ask whether a result is still good."""

KERNEL_VERSION = "ocp-8.0.1.1.0/4"  # the kernel / our part: another number when a shape or mesh comes out otherwise
FILE = "file:"  # begins the keys of files that came with a part
