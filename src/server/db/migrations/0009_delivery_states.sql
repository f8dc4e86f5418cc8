ALTER TABLE `deliveries` ADD `state` text DEFAULT 'open' NOT NULL;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `replaces_id` text REFERENCES deliveries(id);--> statement-breakpoint
UPDATE `deliveries` SET `state` = CASE
  WHEN `discarded_at_ms` IS NOT NULL THEN 'discarded'
  WHEN `written_at_ms` IS NOT NULL THEN 'written'
  WHEN EXISTS (
    SELECT 1 FROM `tasks` WHERE `tasks`.`kind` = 'render' AND `tasks`.`subject_id` = `deliveries`.`id`
      AND `tasks`.`state` IN ('queued', 'running')
  ) AND NOT EXISTS (
    SELECT 1 FROM `deliveries` AS `newer` WHERE `newer`.`line_id` = `deliveries`.`line_id`
      AND `newer`.`rowid` > `deliveries`.`rowid` AND `newer`.`written_at_ms` IS NULL
  ) THEN 'open'
  ELSE 'ended'
END;--> statement-breakpoint
CREATE UNIQUE INDEX `deliveries_one_open` ON `deliveries` (`line_id`) WHERE state = 'open';