"""The API of the area “techniques”: routes, what they take and give, and how it is presented."""
