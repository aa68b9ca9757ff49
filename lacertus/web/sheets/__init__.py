"""The API of the area “sheets”: routes, what they take and give, and how it is presented."""
