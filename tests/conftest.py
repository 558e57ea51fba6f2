import os

# The browser's driver keeps an event loop in the thread the tests run in; Django would refuse the database beside it.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
