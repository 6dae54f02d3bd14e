"""USD stages of characters in motion, written and read with usd-core."""

import os

# The library writes an older version of its binary form unless it is asked, and says so at each upgrade; that it was asked it says too.
os.environ.setdefault("USD_WRITE_NEW_USDC_FILES_AS_VERSION", "0.9.0")
os.environ.setdefault("TF_ENV_SETTING_ALERTS_ENABLED", "0")
