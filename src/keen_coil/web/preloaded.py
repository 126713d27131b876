"""What the process that heavy work is forked from has loaded, so that no piece of work loads it again."""

import contextlib
import gc
import importlib

gc.disable()  # all of it stays
for name in (
    "keen_coil.cli.commands",
    "keen_coil.web.tasks",
    "keen_coil.services.calls.photographs",
    "keen_coil.formats.call_file",
    "keen_coil.formats.pdf",
    "PIL.JpegImagePlugin",
    "PIL.PngImagePlugin",
    "PIL.WebPImagePlugin",
    "scipy.optimize.elementwise",
    "weasyprint",
    "rapidocr_onnxruntime",
    "zxingcpp",
):
    with contextlib.suppress(ImportError, OSError):  # without Pango only PDF fails
        importlib.import_module(name)
gc.freeze()  # and no piece of work looks through it for garbage
gc.enable()
