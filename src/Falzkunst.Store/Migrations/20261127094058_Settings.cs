using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Settings : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "DrySeconds",
                table: "Tools",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "HeatSeconds",
                table: "Tools",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "OnlyHolder",
                table: "Tools",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "SwivelMm",
                table: "Tools",
                type: "double precision",
                nullable: false,
                defaultValue: 0.0);

            migrationBuilder.AddColumn<double>(
                name: "WidthMm",
                table: "Tools",
                type: "double precision",
                nullable: false,
                defaultValue: 0.0);

            migrationBuilder.AddColumn<Guid>(
                name: "AfterId",
                table: "Runs",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "HoldAsked",
                table: "Runs",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "IsTouchUp",
                table: "Runs",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<double>(
                name: "DepthMm",
                table: "MaterialSettingRow",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "OvercutMm",
                table: "MaterialSettingRow",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "PassesTogether",
                table: "MaterialSettingRow",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            // The tools that every workshop has are as they have always been sold.
            migrationBuilder.Sql("""
                UPDATE "Tools" SET "SwivelMm" = 0.9 WHERE "Key" = 'knife';
                UPDATE "Tools" SET "WidthMm" = 0.5 WHERE "Key" = 'pen';
                UPDATE "Tools" SET "WidthMm" = 0.6, "HeatSeconds" = 300 WHERE "Key" = 'foil';
                UPDATE "Tools" SET "WidthMm" = 1 WHERE "Key" = 'deboss';
                """);

            migrationBuilder.CreateTable(
                name: "SettingPasts",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    StudioId = table.Column<Guid>(type: "uuid", nullable: false),
                    StockId = table.Column<Guid>(type: "uuid", nullable: false),
                    ToolKey = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    Passes = table.Column<int>(type: "integer", nullable: false),
                    ForceGrams = table.Column<double>(type: "double precision", nullable: false),
                    SpeedMmS = table.Column<double>(type: "double precision", nullable: false),
                    OvercutMm = table.Column<double>(type: "double precision", nullable: true),
                    DepthMm = table.Column<double>(type: "double precision", nullable: true),
                    PassesTogether = table.Column<bool>(type: "boolean", nullable: false),
                    Why = table.Column<string>(type: "text", nullable: false),
                    Worked = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SettingPasts", x => x.Id);
                    table.ForeignKey(
                        name: "FK_SettingPasts_Stocks_StockId",
                        column: x => x.StockId,
                        principalTable: "Stocks",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_SettingPasts_Studios_StudioId",
                        column: x => x.StudioId,
                        principalTable: "Studios",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Runs_AfterId",
                table: "Runs",
                column: "AfterId");

            migrationBuilder.CreateIndex(
                name: "IX_SettingPasts_StockId_ToolKey_At",
                table: "SettingPasts",
                columns: new[] { "StockId", "ToolKey", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_SettingPasts_StudioId",
                table: "SettingPasts",
                column: "StudioId");

            migrationBuilder.AddForeignKey(
                name: "FK_Runs_Runs_AfterId",
                table: "Runs",
                column: "AfterId",
                principalTable: "Runs",
                principalColumn: "Id",
                onDelete: ReferentialAction.SetNull);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Runs_Runs_AfterId",
                table: "Runs");

            migrationBuilder.DropTable(
                name: "SettingPasts");

            migrationBuilder.DropIndex(
                name: "IX_Runs_AfterId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "DrySeconds",
                table: "Tools");

            migrationBuilder.DropColumn(
                name: "HeatSeconds",
                table: "Tools");

            migrationBuilder.DropColumn(
                name: "OnlyHolder",
                table: "Tools");

            migrationBuilder.DropColumn(
                name: "SwivelMm",
                table: "Tools");

            migrationBuilder.DropColumn(
                name: "WidthMm",
                table: "Tools");

            migrationBuilder.DropColumn(
                name: "AfterId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "HoldAsked",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "IsTouchUp",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "DepthMm",
                table: "MaterialSettingRow");

            migrationBuilder.DropColumn(
                name: "OvercutMm",
                table: "MaterialSettingRow");

            migrationBuilder.DropColumn(
                name: "PassesTogether",
                table: "MaterialSettingRow");
        }
    }
}
