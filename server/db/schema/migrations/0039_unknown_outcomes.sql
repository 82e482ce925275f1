-- Whether somebody would rather lose a mail than have it twice, where nobody knows whether it arrived. What is said of
-- her bears a version, so that of two who say something of her at once neither undoes the other unseen.
ALTER TABLE person
  ADD COLUMN rather_lose boolean NOT NULL DEFAULT false,
  ADD COLUMN version int NOT NULL DEFAULT 1;
