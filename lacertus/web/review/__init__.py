"""The API of the area “review”: routes, what they take and give, and how it is presented."""
