-- name: claim_chore(name, day)!
UPDATE chores SET last_day = :day WHERE name = :name AND last_day < :day;
