-- Somebody who is told can be asked to sign in, too: when that was. The link of her invitation bears the same moment,
-- so that of several the last one
-- counts, and none once it was used or taken back.
ALTER TABLE person ADD COLUMN invited_at timestamptz;
ALTER TABLE delivery DROP CONSTRAINT delivery_purpose_check;
ALTER TABLE delivery ADD CONSTRAINT delivery_purpose_check CHECK
  (purpose IN ('edition', 'confirmation', 'invitation', 'warning'));
