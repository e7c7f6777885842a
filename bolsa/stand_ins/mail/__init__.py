"""The mail folder stand-in: letters of brokers as files (.eml), as a mail program puts them into a folder; the same letters give
the same bytes. Begin with state.py."""
