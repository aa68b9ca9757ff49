"""The API of the area “academy”: routes, what they take and give, and how it is presented."""
