CREATE TABLE `delivery_lines` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`programme_id` text NOT NULL,
	`spec_id` text NOT NULL,
	`format` text NOT NULL,
	`way` text NOT NULL,
	`keep` text,
	`position` integer NOT NULL,
	`created_at_ms` integer NOT NULL,
	`removed_at_ms` integer,
	`prediction` text,
	`prediction_key` text,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `delivery_lines_job` ON `delivery_lines` (`job_id`);--> statement-breakpoint
CREATE TABLE `delivery_sets` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`lines` text NOT NULL,
	`created_at_ms` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `specs` (
	`id` text NOT NULL,
	`version` integer NOT NULL,
	`spec` text NOT NULL,
	`is_built_in` integer NOT NULL,
	`created_at_ms` integer NOT NULL,
	`retired_at_ms` integer,
	PRIMARY KEY(`id`, `version`)
);
--> statement-breakpoint
ALTER TABLE `deliveries` ADD `line_id` text REFERENCES delivery_lines(id);--> statement-breakpoint
ALTER TABLE `deliveries` ADD `format` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `treatment` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `landing` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `outcome` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `accepted_reason` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `discarded_at_ms` integer;--> statement-breakpoint
ALTER TABLE `jobs` ADD `name_template` text;--> statement-breakpoint
ALTER TABLE `programmes` ADD `tags` text;