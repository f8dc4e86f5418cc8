ALTER TABLE `deliveries` ADD `source_sha256` text;--> statement-breakpoint
UPDATE `deliveries` SET `source_sha256` = (SELECT `source_sha256` FROM `programmes` WHERE `programmes`.`id` = `deliveries`.`programme_id`);
