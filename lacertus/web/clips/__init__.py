"""The API of the area “clips”: routes, what they take and give, and how it is presented."""
