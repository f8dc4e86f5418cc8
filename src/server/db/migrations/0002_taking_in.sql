ALTER TABLE `jobs` ADD `archived_at_ms` integer;--> statement-breakpoint
ALTER TABLE `programmes` ADD `note` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `programmes` ADD `group_name` text;--> statement-breakpoint
ALTER TABLE `programmes` ADD `removed_at_ms` integer;--> statement-breakpoint
ALTER TABLE `sources` ADD `reference` text;