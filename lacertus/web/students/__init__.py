"""The API of the area “students”: their own pages, the inbox, consents and how long films are kept."""
