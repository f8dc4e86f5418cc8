CREATE TABLE `assemblies` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`line_up_id` text NOT NULL,
	`folder_name` text NOT NULL,
	`order` text NOT NULL,
	`state` text NOT NULL,
	`outcome` text,
	`created_at_ms` integer NOT NULL,
	`written_at_ms` integer,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`line_up_id`) REFERENCES `line_ups`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `assemblies_job_folder` ON `assemblies` (`job_id`,`folder_name`);--> statement-breakpoint
CREATE UNIQUE INDEX `assemblies_one_open` ON `assemblies` (`line_up_id`) WHERE state = 'open';--> statement-breakpoint
ALTER TABLE `line_ups` ADD `record` text;