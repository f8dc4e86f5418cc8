CREATE TABLE `null_tests` (
	`line_up_id` text PRIMARY KEY NOT NULL,
	`outcome` text NOT NULL,
	`tested_at_ms` integer NOT NULL,
	FOREIGN KEY (`line_up_id`) REFERENCES `line_ups`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
ALTER TABLE `line_ups` ADD `mix_id` text REFERENCES programmes(id);