"""The API of the area “corrections”: routes, what they take and give, and how it is presented."""
