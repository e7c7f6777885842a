-- Earlier versions left the mark "touches everyday money" as it was on entries that were put back after their account was turned. The
-- marks are set anew; what the months came to follows by the triggers.

UPDATE line SET everyday = 1 - everyday WHERE everyday <> EXISTS (
    SELECT 1 FROM line o JOIN account a ON a.id = o.account_id WHERE o.entry_id = line.entry_id AND a.everyday = 1);
