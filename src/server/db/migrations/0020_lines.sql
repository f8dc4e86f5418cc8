CREATE TABLE `line_events` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`line_id` text NOT NULL,
	`kind` text NOT NULL,
	`start_ms` integer NOT NULL,
	`end_ms` integer,
	`detail` text NOT NULL,
	`words` text NOT NULL,
	FOREIGN KEY (`line_id`) REFERENCES `lines`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `line_events_line` ON `line_events` (`line_id`,`start_ms`);--> statement-breakpoint
CREATE TABLE `line_seconds` (
	`line_id` text NOT NULL,
	`at_s` integer NOT NULL,
	`state` text NOT NULL,
	`momentary_lufs` real,
	`short_term_lufs` real,
	`integrated_lufs` real,
	`true_peak_dbtp` real,
	PRIMARY KEY(`line_id`, `at_s`),
	FOREIGN KEY (`line_id`) REFERENCES `lines`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `lines` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`input` text NOT NULL,
	`spec_id` text,
	`alarms` text NOT NULL,
	`planned_seconds` real,
	`is_on` integer NOT NULL,
	`created_at_ms` integer NOT NULL,
	`removed_at_ms` integer,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `lines_job` ON `lines` (`job_id`);--> statement-breakpoint
CREATE TABLE `recordings` (
	`id` text PRIMARY KEY NOT NULL,
	`line_id` text NOT NULL,
	`job_id` text NOT NULL,
	`file_name` text NOT NULL,
	`state` text NOT NULL,
	`start_ms` integer NOT NULL,
	`facts` text,
	`error` text,
	`programme_id` text,
	FOREIGN KEY (`line_id`) REFERENCES `lines`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `recordings_line` ON `recordings` (`line_id`);--> statement-breakpoint
CREATE UNIQUE INDEX `recordings_one_open` ON `recordings` (`line_id`) WHERE state = 'open';