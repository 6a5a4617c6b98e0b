//! The interface, driven in a browser. Everything is in the tests.
