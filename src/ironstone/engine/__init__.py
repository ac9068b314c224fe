"""Questions and answers: all that can be asked of a review and kept in it. Nothing above this has rules of its own.

A module here that defines a ``Question`` or a ``Kept`` with a ``kind`` is found by itself (see ``found``); service, command line
and Python follow.
"""
