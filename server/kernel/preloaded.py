"""What every kernel process needs, loaded once by the process that they are forked from (see ``pool``).

Loading the kernel takes a second or two of a processor. Nothing here may start a thread: a fork takes along
its locks but not the thread.
"""

import sulvak_core.inspect.prove
import sulvak_core.inspect.report
import sulvak_core.rebuild.difference
import sulvak_core.rebuild.engine
import sulvak_core.rebuild.state
import sulvak_core.steps.registry

from . import child

__all__ = ["child", "sulvak_core"]
