CREATE TABLE `documents` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`sensor_serial` text NOT NULL,
	`name` text NOT NULL,
	`at` integer NOT NULL,
	`content` blob NOT NULL,
	FOREIGN KEY (`sensor_serial`) REFERENCES `sensors`(`serial`) ON UPDATE cascade ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `document_of_sensor` ON `documents` (`sensor_serial`);--> statement-breakpoint
CREATE TABLE `layouts` (
	`job_id` text NOT NULL,
	`page` text NOT NULL,
	`body` text NOT NULL,
	PRIMARY KEY(`job_id`, `page`),
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `scales` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `sensors` (
	`serial` text PRIMARY KEY NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `units` ADD `config` text;