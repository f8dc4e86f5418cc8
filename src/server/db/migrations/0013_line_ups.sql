CREATE TABLE `line_up_members` (
	`line_up_id` text NOT NULL,
	`programme_id` text NOT NULL,
	`position` integer NOT NULL,
	`gap_seconds` real NOT NULL,
	PRIMARY KEY(`line_up_id`, `programme_id`),
	FOREIGN KEY (`line_up_id`) REFERENCES `line_ups`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `line_ups` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`kind` text NOT NULL,
	`name` text NOT NULL,
	`spec_id` text,
	`created_at_ms` integer NOT NULL,
	`removed_at_ms` integer,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `line_ups_job` ON `line_ups` (`job_id`);