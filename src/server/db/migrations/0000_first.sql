CREATE TABLE `deliveries` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`programme_id` text NOT NULL,
	`treatment_id` text NOT NULL,
	`spec` text NOT NULL,
	`file_name` text NOT NULL,
	`predicted` text NOT NULL,
	`report` text,
	`verdict` text,
	`created_at_ms` integer NOT NULL,
	`written_at_ms` integer,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`treatment_id`) REFERENCES `treatments`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `deliveries_job_file` ON `deliveries` (`job_id`,`file_name`);--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`created_at_ms` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `programmes` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`source_sha256` text NOT NULL,
	`title` text NOT NULL,
	`file_name` text NOT NULL,
	`position` integer NOT NULL,
	`created_at_ms` integer NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`source_sha256`) REFERENCES `sources`(`sha256`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `programmes_job_source` ON `programmes` (`job_id`,`source_sha256`);--> statement-breakpoint
CREATE TABLE `source_reports` (
	`sha256` text NOT NULL,
	`engine_version` text NOT NULL,
	`report` text NOT NULL,
	`measured_at_ms` integer NOT NULL,
	PRIMARY KEY(`sha256`, `engine_version`),
	FOREIGN KEY (`sha256`) REFERENCES `sources`(`sha256`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `sources` (
	`sha256` text PRIMARY KEY NOT NULL,
	`size_bytes` integer NOT NULL,
	`format` text NOT NULL,
	`created_at_ms` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `tasks` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`subject_id` text NOT NULL,
	`state` text NOT NULL,
	`attempts` integer NOT NULL,
	`fraction` real NOT NULL,
	`times_real_time` real,
	`error` text,
	`created_at_ms` integer NOT NULL,
	`heartbeat_at_ms` integer,
	`finished_at_ms` integer
);
--> statement-breakpoint
CREATE INDEX `tasks_subject` ON `tasks` (`kind`,`subject_id`);--> statement-breakpoint
CREATE UNIQUE INDEX `tasks_one_live` ON `tasks` (`kind`,`subject_id`) WHERE state in ('queued', 'running');--> statement-breakpoint
CREATE TABLE `treatments` (
	`id` text PRIMARY KEY NOT NULL,
	`programme_id` text NOT NULL,
	`version` integer NOT NULL,
	`treatment` text NOT NULL,
	`updated_at_ms` integer NOT NULL,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `treatments_programme_version` ON `treatments` (`programme_id`,`version`);