-- A carried value is the last noted one, what flowed since, and what its curve alone adds. That last part is kept, so that the value
-- follows a flow that comes late, changes or goes. Of values carried before it is what they differ from the noted one they began
-- from; they take in their flows when their account is touched next.

ALTER TABLE value_note ADD COLUMN grown_minor INTEGER;   -- what the curve alone added since the value it began from; NULL: noted
UPDATE value_note SET grown_minor = amount_minor - (
    SELECT b.amount_minor FROM value_note b WHERE b.account_id = value_note.account_id AND b.day < value_note.day
        AND b.source IN ('hand', 'brought', 'between') ORDER BY b.day DESC LIMIT 1)
WHERE source IN ('carried', 'curve', 'index');
