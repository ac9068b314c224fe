"""What is kept of a review: exhibits and named views, hand checks, and what changed since."""
