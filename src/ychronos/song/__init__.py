"""The song as decided and stated: immutable values, edits, history, doubts."""
