using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Runs : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // What an earlier version had under way nobody has in hand any more, and a machine is to have one run at most.
            migrationBuilder.Sql("""
                INSERT INTO "RunEvents" ("Id", "RunId", "At", "Step", "Text") SELECT gen_random_uuid(), "Id", now(), "Step",
                  'Ended by a new version of the application. Look at the sheet, then run it again or go on to the next.' FROM "Runs" WHERE "State" IN (0, 1);
                UPDATE "Runs" SET "State" = 4, "Asks" = '', "EndedAt" = now() WHERE "State" IN (0, 1);
                """);

            migrationBuilder.DropIndex(
                name: "IX_Runs_MachineId_State",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Confirmed",
                table: "Runs");

            migrationBuilder.AddColumn<int>(
                name: "Strokes",
                table: "Runs",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "Asked",
                table: "Runs",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<Guid>(
                name: "Owner",
                table: "Runs",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "PlanId",
                table: "Runs",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Ready",
                table: "Runs",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "RecordFrom",
                table: "Runs",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "RecordPort",
                table: "Machines",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Best",
                table: "Layouts",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "RunPlans",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    StudioId = table.Column<Guid>(type: "uuid", nullable: false),
                    DocketId = table.Column<Guid>(type: "uuid", nullable: false),
                    LayoutId = table.Column<Guid>(type: "uuid", nullable: false),
                    MachineId = table.Column<Guid>(type: "uuid", nullable: false),
                    MadeFrom = table.Column<string>(type: "text", nullable: false),
                    Document = table.Column<byte[]>(type: "bytea", nullable: false),
                    At = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_RunPlans", x => x.Id);
                    table.ForeignKey(
                        name: "FK_RunPlans_Dockets_DocketId",
                        column: x => x.DocketId,
                        principalTable: "Dockets",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_RunPlans_Studios_StudioId",
                        column: x => x.StudioId,
                        principalTable: "Studios",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Runs_OnePerMachine",
                table: "Runs",
                column: "MachineId",
                unique: true,
                filter: "\"State\" IN (0, 1, 5)");

            migrationBuilder.CreateIndex(
                name: "IX_Runs_PlanId",
                table: "Runs",
                column: "PlanId");

            migrationBuilder.CreateIndex(
                name: "IX_Runs_State",
                table: "Runs",
                column: "State");

            migrationBuilder.CreateIndex(
                name: "IX_RunPlans_DocketId",
                table: "RunPlans",
                column: "DocketId");

            migrationBuilder.CreateIndex(
                name: "IX_RunPlans_LayoutId_MachineId_MadeFrom",
                table: "RunPlans",
                columns: new[] { "LayoutId", "MachineId", "MadeFrom" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_RunPlans_StudioId",
                table: "RunPlans",
                column: "StudioId");

            migrationBuilder.AddForeignKey(
                name: "FK_Runs_RunPlans_PlanId",
                table: "Runs",
                column: "PlanId",
                principalTable: "RunPlans",
                principalColumn: "Id",
                onDelete: ReferentialAction.NoAction);

            // Until now every machine was a stand-in, which tells what it did on the next port.
            migrationBuilder.Sql("UPDATE \"Machines\" SET \"RecordPort\" = \"Port\" + 1");

            // The database itself says what changed, whoever changed it.
            migrationBuilder.Sql("""
                CREATE FUNCTION falzkunst_tell() RETURNS trigger LANGUAGE plpgsql AS $$
                BEGIN
                  PERFORM pg_notify('falzkunst', TG_ARGV[0] || ' ' || NEW."Id");
                  RETURN NULL;
                END $$;
                CREATE TRIGGER tell AFTER INSERT OR UPDATE ON "Runs" FOR EACH ROW EXECUTE FUNCTION falzkunst_tell('run');
                CREATE TRIGGER tell AFTER INSERT OR UPDATE ON "Layouts" FOR EACH ROW EXECUTE FUNCTION falzkunst_tell('layout');
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER tell ON "Runs";
                DROP TRIGGER tell ON "Layouts";
                DROP FUNCTION falzkunst_tell();
                """);

            migrationBuilder.DropForeignKey(
                name: "FK_Runs_RunPlans_PlanId",
                table: "Runs");

            migrationBuilder.DropTable(
                name: "RunPlans");

            migrationBuilder.DropIndex(
                name: "IX_Runs_OnePerMachine",
                table: "Runs");

            migrationBuilder.DropIndex(
                name: "IX_Runs_PlanId",
                table: "Runs");

            migrationBuilder.DropIndex(
                name: "IX_Runs_State",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Asked",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Owner",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "PlanId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Ready",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "RecordFrom",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "RecordPort",
                table: "Machines");

            migrationBuilder.DropColumn(
                name: "Best",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "Strokes",
                table: "Runs");

            migrationBuilder.AddColumn<int>(
                name: "Confirmed",
                table: "Runs",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateIndex(
                name: "IX_Runs_MachineId_State",
                table: "Runs",
                columns: new[] { "MachineId", "State" });
        }
    }
}
