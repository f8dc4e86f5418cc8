CREATE TABLE `treatment_edits` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`programme_id` text NOT NULL,
	`treatment` text NOT NULL,
	`created_at_ms` integer NOT NULL,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `treatment_edits_programme` ON `treatment_edits` (`programme_id`);--> statement-breakpoint
ALTER TABLE `programmes` ADD `treatment_id` text;--> statement-breakpoint
ALTER TABLE `programmes` ADD `edit_id` integer;--> statement-breakpoint
ALTER TABLE `treatments` ADD `name` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `treatments` ADD `heard_at_ms` integer;