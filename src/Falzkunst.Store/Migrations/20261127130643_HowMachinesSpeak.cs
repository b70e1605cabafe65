using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class HowMachinesSpeak : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "LiftMm",
                table: "SettingPasts",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<double[]>(
                name: "FoilLies",
                table: "Runs",
                type: "double precision[]",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<bool>(
                name: "LeavesRest",
                table: "Runs",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "WholeId",
                table: "Runs",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "LiftMm",
                table: "MaterialSettingRow",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Language",
                table: "Machines",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<double>(
                name: "MostForceGrams",
                table: "Machines",
                type: "double precision",
                nullable: false,
                defaultValue: 0.0);

            migrationBuilder.AddColumn<double>(
                name: "StepsPerMm",
                table: "Machines",
                type: "double precision",
                nullable: false,
                defaultValue: 40.0);

            migrationBuilder.AddColumn<bool>(
                name: "ByTool",
                table: "Dockets",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.CreateIndex(
                name: "IX_Runs_WholeId",
                table: "Runs",
                column: "WholeId");

            migrationBuilder.AddForeignKey(
                name: "FK_Runs_RunPlans_WholeId",
                table: "Runs",
                column: "WholeId",
                principalTable: "RunPlans",
                principalColumn: "Id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Runs_RunPlans_WholeId",
                table: "Runs");

            migrationBuilder.DropIndex(
                name: "IX_Runs_WholeId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "LiftMm",
                table: "SettingPasts");

            migrationBuilder.DropColumn(
                name: "FoilLies",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "LeavesRest",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "WholeId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "LiftMm",
                table: "MaterialSettingRow");

            migrationBuilder.DropColumn(
                name: "Language",
                table: "Machines");

            migrationBuilder.DropColumn(
                name: "MostForceGrams",
                table: "Machines");

            migrationBuilder.DropColumn(
                name: "StepsPerMm",
                table: "Machines");

            migrationBuilder.DropColumn(
                name: "ByTool",
                table: "Dockets");
        }
    }
}
