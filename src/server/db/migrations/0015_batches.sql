CREATE TABLE `batches` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`wish` text NOT NULL,
	`items` text NOT NULL,
	`created_at_ms` integer NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `batches_job` ON `batches` (`job_id`);