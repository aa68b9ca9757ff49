"""The API of the area “people”: routes, what they take and give, and how it is presented."""
