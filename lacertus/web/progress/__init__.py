"""The API of the area “progress”: routes, what they take and give, and how it is presented."""
