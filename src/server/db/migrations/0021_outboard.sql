CREATE TABLE `outboard_passes` (
	`id` text PRIMARY KEY NOT NULL,
	`programme_id` text NOT NULL,
	`number` integer NOT NULL,
	`order` text NOT NULL,
	`reading` text,
	`pass_programme_id` text,
	`recorded_at_ms` integer NOT NULL,
	FOREIGN KEY (`programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`pass_programme_id`) REFERENCES `programmes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `outboard_passes_programme` ON `outboard_passes` (`programme_id`,`number`);