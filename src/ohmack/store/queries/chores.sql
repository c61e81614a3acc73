-- name: give_chore_back(name, day, before)!
UPDATE chores SET last_day = :before WHERE name = :name AND last_day = :day;

-- name: claim_chore(name, day)!
UPDATE chores SET last_day = :day WHERE name = :name AND last_day < :day;
