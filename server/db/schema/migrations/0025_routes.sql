-- By which routes somebody hears: a phone number, an address that takes posts, and which of them for what weight.
ALTER TABLE person
  ADD COLUMN phone text,
  ADD COLUMN webhook text,
  ADD COLUMN routes jsonb NOT NULL DEFAULT '{"low": ["mail"], "usual": ["mail"], "high": ["mail"]}';

-- A delivery has a route of its own. Where an edition goes to one reader by several, the others stand beside the first,
-- under its number.
ALTER TABLE delivery
  DROP CONSTRAINT delivery_route_check,
  ADD CHECK (route IN ('mail', 'text', 'webhook')),
  ADD COLUMN beside bigint REFERENCES delivery ON DELETE CASCADE,
  -- Under which a short text leads to the whole of it.
  ADD COLUMN code text;
CREATE INDEX delivery_beside ON delivery (beside) WHERE beside IS NOT NULL;
CREATE UNIQUE INDEX delivery_code ON delivery (code) WHERE code IS NOT NULL;
-- What is posted to one address goes in order.
CREATE INDEX delivery_posts ON delivery (address, id) WHERE route = 'webhook' AND state NOT IN ('sent', 'given up');
