CREATE TABLE `markers` (
	`id` text PRIMARY KEY NOT NULL,
	`programme_id` text NOT NULL,
	`start_frame` integer NOT NULL,
	`end_frame` integer,
	`name` text NOT NULL,
	`created_at_ms` integer NOT NULL,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `markers_programme` ON `markers` (`programme_id`);